import { Problem } from "../kit/Problem";
import type { Connection } from "../api/directories";
import { Button } from "../kit/Button";
import { Select, TextInput } from "../kit/inputs";

export type Door = NonNullable<Connection["doors"]>[number];

const ROLES: Door["role"][] = ["viewer", "help desk", "author", "approver", "administrator"];

/** Groups whose members sign in with what they have in the directory, and the role of each. */
export function Doors({
  doors,
  wrong,
  onChange,
}: {
  doors: Door[];
  wrong: string | undefined;
  onChange: (doors: Door[]) => void;
}) {
  const change = (at: number, part: Partial<Door>) =>
    onChange(doors.map((door, number) => (number === at ? { ...door, ...part } : door)));
  return (
    <fieldset>
      <legend>Groups that sign in as name@domain</legend>
      {doors.map((door, number) => (
        <div key={number} className="mb-1.5 grid grid-cols-[minmax(0,1fr)_auto] gap-1.5">
          <TextInput
            aria-label={`Group ${number + 1}`}
            placeholder="CN=…,DC=…"
            value={door.group}
            maxLength={4096}
            onChange={(event) => change(number, { group: event.target.value })}
          />
          <Button
            aria-label={`Leave out group ${number + 1}`}
            onClick={() => onChange(doors.filter((_, other) => other !== number))}
          >
            ✕
          </Button>
          <Select
            aria-label={`Role of group ${number + 1}`}
            value={door.role}
            onChange={(event) => change(number, { role: event.target.value as Door["role"] })}
          >
            {ROLES.map((role) => (
              <option key={role}>{role}</option>
            ))}
          </Select>
        </div>
      ))}
      <Button size="small" onClick={() => onChange([...doors, { group: "", role: "viewer" }])}>
        + Group
      </Button>
      <p className="text-xs text-soft">
        Whoever is in one, at any depth, comes in by the password of the directory, in that role and
        this domain.
      </p>
      <Problem>{wrong}</Problem>
    </fieldset>
  );
}
