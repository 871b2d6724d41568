#!/bin/sh
# Install one thing the project needs, if it is not there: python | node | postgresql | directory | browser.
# Debian packages are installed as root or through sudo. Running it again does no harm.
set -eu
cd "$(dirname "$0")/.."

fail() {
    echo "hornfels: $*" >&2
    exit 1
}

as_root() {
    if [ "$(id -u)" = 0 ]; then
        "$@"
    elif command -v sudo >/dev/null 2>&1; then
        sudo "$@"
    else
        fail "this needs root once, to run: $* — or install sudo"
    fi
}

debian() {
    command -v apt-get >/dev/null 2>&1 || fail "this is no Debian; install yourself: $*"
    echo "Installing from Debian: $*"
    # One at a time, where several are asked for at once.
    exec 9>/tmp/hornfels-debian.lock && flock 9
    as_root apt-get -qq update >/dev/null || echo "hornfels: the package lists could not be renewed; going on with the old ones" >&2
    as_root env DEBIAN_FRONTEND=noninteractive apt-get -qq install -y --no-install-recommends "$@" >/dev/null ||
        fail "apt-get could not install: $*"
    exec 9>&-
}

case "${1:-}" in
python)
    python="${PYTHON:-python3}"
    command -v "$python" >/dev/null 2>&1 || debian python3
    "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || fail "Python 3.11 or newer is needed; this is $("$python" --version)"
    "$python" -c 'import ensurepip, venv' 2>/dev/null || debian python3-venv
    # The client library of directories is compiled here.
    command -v gcc >/dev/null 2>&1 && [ -e /usr/include/ldap.h ] && [ -e /usr/include/sasl/sasl.h ] ||
        debian gcc python3-dev libldap-dev libsasl2-dev
    # A virtual environment that an interruption left half made has no pip.
    .venv/bin/python -m pip --version >/dev/null 2>&1 || { rm -rf .venv && "$python" -m venv .venv; }
    echo "Installing the Python packages"
    pip="$PWD/.venv/bin/python -m pip"
    # The quicker installer where it reaches the registry; pip, which knows how to by the machine's settings, where not.
    { $pip install -q --disable-pip-version-check --require-hashes -r requirements/installer.txt &&
        VIRTUAL_ENV="$PWD/.venv" .venv/bin/uv pip install -q --require-hashes -r requirements/dev.txt; } ||
        $pip install -q --disable-pip-version-check --require-hashes -r requirements/dev.txt
    $pip install -q --disable-pip-version-check --no-build-isolation --no-deps -e .
    ;;
node)
    command -v node >/dev/null 2>&1 || fail "Node 20 or newer is needed; install it first"
    command -v npm >/dev/null 2>&1 || debian npm
    node -e 'process.exit(Number(process.versions.node.split(".")[0]) < 20 ? 1 : 0)' || fail "Node 20 or newer is needed; this is $(node --version)"
    echo "Installing the web packages"
    # Not `npm ci`: it insists on optional packages for other platforms, which not every registry mirror carries.
    # The lock file's versions and hashes hold all the same, and the file is not written.
    (cd web && npm install --no-save --ignore-scripts --no-audit --no-fund --loglevel=error)
    ;;
postgresql)
    if ! ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 && ! command -v initdb >/dev/null 2>&1; then
        # No cluster of the system's own: Hornfels keeps a private one.
        as_root mkdir -p /etc/postgresql-common/createcluster.d
        echo "create_main_cluster = false" | as_root tee /etc/postgresql-common/createcluster.d/hornfels.conf >/dev/null
        debian postgresql
    fi
    ;;
directory)
    # A real directory server to test against. Tests and the demo start copies of their own; the system starts none.
    if ! command -v samba >/dev/null 2>&1 || ! command -v samba-tool >/dev/null 2>&1; then
        for unit in samba-ad-dc smbd nmbd winbind; do
            [ -e "/etc/systemd/system/$unit.service" ] || as_root ln -sf /dev/null "/etc/systemd/system/$unit.service"
        done
        debian samba-ad-dc samba-ad-provision
    fi
    command -v ldapmodify >/dev/null 2>&1 || debian ldap-utils
    command -v kinit >/dev/null 2>&1 && ls /usr/lib/*/sasl2/libgssapiv2.so >/dev/null 2>&1 ||
        debian krb5-user libsasl2-modules-gssapi-mit
    ;;
browser)
    # The shell without windows takes a third less of the processor; the whole browser does as well.
    command -v chromium-headless-shell >/dev/null 2>&1 ||
        (debian chromium-headless-shell fonts-liberation) ||
        command -v chromium >/dev/null 2>&1 || debian chromium fonts-liberation
    ;;
*)
    fail "usage: scripts/install.sh python|node|postgresql|directory|browser"
    ;;
esac
