import { Popover } from "radix-ui";
import type { ReactNode } from "react";
import { useContainers } from "../api/accounts";
import { Button } from "../kit/Button";
import { Drop } from "../kit/Drop";
import { MomentField } from "../kit/MomentField";
import { containerText, EXPIRIES, FLAGS, WAYS, type Asked, type FilterKey } from "./filters";
import { Select, TextInput } from "../kit/inputs";

interface Props {
  domain: string;
  asked: Asked;
  onAsk: (key: FilterKey, value: string) => void;
}

/**
 * Everything else that accounts can be asked for; each choice narrows at once and stands in the
 * sentence.
 */
export function FilterMenu(props: Props) {
  return (
    <Drop label="Filters" className="w-[420px] space-y-2" trigger={<Button>+ Filter</Button>}>
      <Fields {...props} />
      <Popover.Close asChild>
        <Button tone="main">Done</Button>
      </Popover.Close>
    </Drop>
  );
}

function Fields({ domain, asked, onAsk }: Props) {
  const containers = useContainers(domain).data ?? [];
  const flags = asked.flag.split(",").filter(Boolean);
  return (
    <>
      <Choice
        label="Their policy comes"
        any="any way"
        value={asked.way}
        choices={WAYS}
        onChange={(v) => onAsk("way", v)}
      />
      <Choice
        label="A tie decides"
        any="or does not"
        value={asked.tie}
        choices={YES}
        onChange={(v) => onAsk("tie", v)}
      />
      <Choice
        label="Locked"
        any="or not"
        value={asked.locked}
        choices={YES}
        onChange={(v) => onAsk("locked", v)}
      />
      <Choice
        label="Their password"
        any="may be as it may"
        value={asked.expiry}
        choices={EXPIRIES}
        onChange={(v) => onAsk("expiry", v)}
      />
      <Part label="Expires within, days">
        <TextInput
          aria-label="Expires within, days"
          inputMode="numeric"
          className="w-full"
          value={asked.within}
          onChange={(event) =>
            onAsk("within", event.target.value.replace(/\D/g, "").replace(/^0+/, "").slice(0, 5))
          }
        />
      </Part>
      <Part label="Set before">
        <MomentField
          label="Set before"
          dayOnly
          value={asked.set_before}
          onChange={(iso) => onAsk("set_before", iso)}
        />
      </Part>
      <Choice
        label="Enabled"
        any="or disabled"
        value={asked.enabled}
        choices={YES}
        onChange={(v) => onAsk("enabled", v)}
      />
      <Choice
        label="Administrators"
        any="and everybody else"
        value={asked.privileged}
        choices={YES}
        onChange={(v) => onAsk("privileged", v)}
      />
      <Choice
        label="They lie in"
        any="any place"
        value={asked.container}
        choices={containers.map((c) => [
          c.dn,
          `${containerText(c.dn)} (${c.accounts.toLocaleString("en")})`,
        ])}
        onChange={(v) => onAsk("container", v)}
      />
      <fieldset>
        <legend className="text-soft">Flagged</legend>
        <div className="flex flex-wrap gap-x-4">
          {FLAGS.map(([key, label]) => (
            <label key={key} className="flex h-6 items-center gap-1.5">
              <input
                type="checkbox"
                checked={flags.includes(key)}
                onChange={(event) =>
                  onAsk(
                    "flag",
                    (event.target.checked
                      ? [...flags, key]
                      : flags.filter((f) => f !== key)
                    ).join(),
                  )
                }
              />
              {label}
            </label>
          ))}
        </div>
      </fieldset>
    </>
  );
}

const YES: [string, string][] = [
  ["true", "yes"],
  ["false", "no"],
];

function Part({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[150px_minmax(0,1fr)] items-baseline gap-2 tiny:grid-cols-1 tiny:gap-0">
      <span aria-hidden>{label}</span>
      {children}
    </div>
  );
}

function Choice({
  label,
  any,
  value,
  choices,
  onChange,
}: {
  label: string;
  any: string;
  value: string;
  choices: [string, string][];
  onChange: (value: string) => void;
}) {
  return (
    <Part label={label}>
      <Select
        aria-label={label}
        className="w-full"
        value={value}
        onChange={(event) => onChange(event.target.value)}
      >
        <option value="">{any}</option>
        {choices.map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </Select>
    </Part>
  );
}
