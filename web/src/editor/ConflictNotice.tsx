import { Alert } from "../kit/Alert";
import { Button } from "../kit/Button";
import type { PolicySetting } from "../api/policies";
import { changesOf, valueText, type Edits, type Stored } from "./edits";

interface Props {
  stored: Stored;
  message: string;
  edits: Edits;
  catalogue: PolicySetting[];
  onKeepMine: () => void;
  onTakeTheirs: () => void;
}

/** Somebody else was faster: both sides, and a choice. */
export function ConflictNotice({
  stored,
  message,
  edits,
  catalogue,
  onKeepMine,
  onTakeTheirs,
}: Props) {
  const { body } = changesOf(stored, edits);
  const mine = body.settings;
  const rows = catalogue
    .filter((s) => s.key in mine)
    .map((s) => [s.label, valueText(s, stored.settings[s.key]), valueText(s, mine[s.key])]);
  if (body.name) rows.unshift(["Name", stored.name ?? "", body.name]);
  if (body.precedence)
    rows.unshift(["Precedence", String(stored.precedence), String(body.precedence)]);
  return (
    <Alert tone="fail" role="alert">
      <p className="mb-1.5">{message}</p>
      {rows.length > 0 ? (
        <table className="mb-2 w-full text-left">
          <thead>
            <tr className="text-xs text-soft">
              <th className="font-normal">Setting</th>
              <th className="font-normal">In the draft now</th>
              <th className="font-normal">Yours</th>
            </tr>
          </thead>
          <tbody>
            {rows.map(([label, theirs, yours]) => (
              <tr key={label}>
                <th className="font-medium">{label}</th>
                <td>{theirs}</td>
                <td>{yours}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="mb-2">The draft already says what you wanted.</p>
      )}
      <div className="flex gap-2">
        <Button onClick={onTakeTheirs}>Take the draft’s</Button>
        {rows.length > 0 && <Button onClick={onKeepMine}>Save mine on top</Button>}
      </div>
    </Alert>
  );
}
