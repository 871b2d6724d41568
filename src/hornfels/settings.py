"""How an installation is set: by the environment, else by a file, else as usual."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Literal

from pydantic import Field, SecretStr, ValidationError
from pydantic_settings import (
    BaseSettings,
    PydanticBaseSettingsSource,
    SettingsConfigDict,
    TomlConfigSettingsSource,
)

PREFIX = "HORNFELS_"
FILE = Path("/etc/hornfels/settings.toml")
"""Read if it is there; `HORNFELS_SETTINGS` names another one."""


class SettingsError(ValueError):
    """A setting cannot be read; the message names it and says what is wrong."""


def usual_home() -> Path:
    """Where Hornfels keeps its data: the usual place for root or for a person."""
    if os.geteuid() == 0:
        return Path("/var/lib/hornfels")
    return Path(os.environ.get("XDG_STATE_HOME") or Path.home() / ".local" / "state") / "hornfels"


class Settings(BaseSettings):
    """Every setting, with its meaning. In the environment each is named in capitals after
    `HORNFELS_`.
    """

    model_config = SettingsConfigDict(env_prefix=PREFIX, frozen=True, env_ignore_empty=True)

    home: Path = Field(
        default_factory=usual_home,
        description="the folder of the private database and of what belongs to this machine",
    )
    database_url: SecretStr | None = Field(
        None,
        description="another database instead of the private one, as postgresql+psycopg://…; its "
        "role needs no more than to create tables in its schema",
    )
    database_owner_url: SecretStr | None = Field(
        None,
        description="the same database by the role that owns the trail, for commands that change "
        "the schema or prune the trail",
    )
    audit_anchor: Path | None = Field(
        None,
        description="the file in which workers sign every hour where the trail stands, best on "
        "another machine; the file audit-anchors of the data if not named",
    )
    host: str = Field("127.0.0.1", description="the address to listen on")
    port: int = Field(8470, ge=0, le=65_535, description="the port to listen on")
    hosts: str = Field(
        "",
        description="further names that the server answers to, with commas between them, such as "
        "that of a proxy before it",
    )
    certificate: Path | None = Field(
        None, description="a certificate with its chain (PEM): then Hornfels speaks TLS itself"
    )
    key: Path | None = Field(None, description="the certificate’s key (PEM)")
    proxies: str = Field(
        "",
        description="addresses of the proxies before it, with commas between them: only their word "
        "counts on where a request came from",
    )
    plain: bool = Field(
        False, description="listen beyond loopback without TLS: whoever is on the way reads along"
    )
    sysvol: Path | None = Field(
        None,
        description="the folder in which domain shares (SYSVOL) are mounted by the domain’s DNS "
        "name: the security templates in it are read with the directory",
    )
    policies: Path | None = Field(
        None,
        description="the folder in which policy files are kept by the domain’s DNS name "
        "(example.com.yaml), such as a repository’s: each is held against live",
    )
    baselines: Path | None = Field(
        None, description="the folder in which baselines of your own are kept (*.yaml)"
    )
    servers: Path | None = Field(
        None,
        description="the folder in which security templates of servers are kept, by the domain’s "
        "DNS name and the set that should agree (example.com/dome machines/DOME-01.inf): read "
        "every five minutes",
    )
    corpora: Path | None = Field(
        None,
        description="the folder in which corpora of known-exposed passwords are kept (*.hfc), on "
        "every machine that judges by them; the folder corpora of the data if not named",
    )
    hashes: Path | None = Field(
        None,
        description="the folder on the worker’s machine into which the NT hashes of accounts are "
        "put by the domain’s DNS name (example.com.hashes, closed to everybody else), to be held "
        "against the corpora; the folder hashes of the data if not named",
    )
    unpacked_gb: float = Field(
        8, gt=0, le=1000, description="gigabytes that an uploaded dump may unpack to"
    )
    job_hours: float = Field(
        6, gt=0, le=1000, description="hours after which a worker gives a job up"
    )
    smtp_host: str = Field(
        "", description="the mail server that takes what people are written (none: nobody is)"
    )
    smtp_port: int | None = Field(
        None, ge=1, le=65_535, description="its port; the usual one for how it is encrypted"
    )
    smtp_security: Literal["tls", "starttls", "none"] = Field(
        "starttls",
        description="how mail is encrypted on its way there: TLS from the start, StartTLS, or not "
        "at all, which is for a server on this machine",
    )
    smtp_sender: str = Field("", description="the address that letters are from")
    smtp_name: str = Field("", description="the name to sign in there with, if it wants that")
    smtp_secret: SecretStr | None = Field(None, description="the password to sign in there with")
    smtp_authorities: Path | None = Field(
        None,
        description="certificates (PEM) that the mail server’s is trusted by, if not the usual",
    )
    letters: Path | None = Field(
        None,
        description="the folder of your own texts of letters (en/expiring.txt), which come before "
        "those that come along",
    )
    mailbox: Path | None = Field(
        None,
        description="the folder in which the demo’s stand-in for a mail server keeps what it gets, "
        "to be looked at in the pages",
    )
    directory_plain: bool = Field(
        False,
        description="allow connections to directories without TLS, on which whoever is on the way "
        "reads passwords along: for tests only",
    )
    openid_issuer: str = Field(
        "",
        description="a provider of OpenID Connect where people may sign in besides here, by the "
        "address that it calls itself; it sends them back to the page /signed-in",
    )
    openid_client: str = Field("", description="what the provider calls Hornfels (client id)")
    openid_secret: SecretStr | None = Field(
        None, description="the secret that the provider gave Hornfels, where it gave one"
    )
    openid_title: str = Field(
        "your organisation", description="what people call the provider: “Sign in at …”"
    )
    openid_claim: str = Field(
        "preferred_username",
        description="what of the ID token is the name that somebody was added by",
    )
    openid_authorities: Path | None = Field(
        None, description="certificates (PEM) that the provider’s is trusted by, if not the usual"
    )
    log: Literal["text", "json"] = Field(
        "text", description="how the log is written: for people, or as one JSON object a line"
    )

    @classmethod
    def settings_customise_sources(
        cls,
        settings_cls: type[BaseSettings],
        init_settings: PydanticBaseSettingsSource,
        env_settings: PydanticBaseSettingsSource,
        dotenv_settings: PydanticBaseSettingsSource,  # noqa: ARG003 - the library passes it by name
        file_secret_settings: PydanticBaseSettingsSource,  # noqa: ARG003
    ) -> tuple[PydanticBaseSettingsSource, ...]:
        named = os.environ.get(f"{PREFIX}SETTINGS")
        file = Path(named) if named else FILE
        return (
            init_settings,
            env_settings,
            TomlConfigSettingsSource(settings_cls, toml_file=file),
        )

    @property
    def anchor_file(self) -> Path:
        """The file of signed anchors of the trail."""
        return self.audit_anchor or self.home / "audit-anchors"

    @property
    def names(self) -> frozenset[str]:
        """The further names that the server answers to."""
        return frozenset(filter(None, self.hosts.replace(",", " ").split()))


def read_settings(**given: object) -> Settings:
    """The settings, those that are `given` before all others. Raises `SettingsError`."""
    named = os.environ.get(f"{PREFIX}SETTINGS")
    if named and not Path(named).is_file():
        raise SettingsError(f"{named}: there is no such file of settings")
    try:
        chosen = {key: value for key, value in given.items() if value is not None}
        return Settings(**chosen)  # type: ignore[arg-type]
    except ValidationError as error:
        first = error.errors()[0]
        name = ".".join(map(str, first["loc"]))
        what = "no setting has this name" if first["type"] == "extra_forbidden" else first["msg"]
        raise SettingsError(f"{name} ({PREFIX}{name.upper()}): {what}") from None
    except ValueError as error:
        raise SettingsError(f"{named or FILE}: {error}") from None
