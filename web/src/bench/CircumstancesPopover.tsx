import { Popover } from "radix-ui";
import { Button } from "../kit/Button";
import { MomentField } from "../kit/MomentField";
import { Drop } from "../kit/Drop";
import { AS_IT_IS, useBench, type Earlier } from "./BenchProvider";
import { TextInput } from "../kit/inputs";

/**
 * When the trial takes place, how old the present password is, and which passwords were in use
 * before.
 */
export function CircumstancesPopover() {
  const { circumstances, setCircumstances } = useBench();
  const { operation, now, passwordSet, earlier } = circumstances;
  const given = [
    now && "as of",
    passwordSet && "time set",
    earlier.length > 0 && `${earlier.length} earlier`,
  ].filter(Boolean);
  return (
    <Drop
      side="top"
      label="Circumstances of the trial"
      className="w-[380px] space-y-3"
      trigger={
        <Button
          className={given.length ? "border-warn bg-warnbg" : ""}
          title={given.length ? `Given: ${given.join(", ")}` : undefined}
        >
          {given.length ? `Circumstances · ${given.length}` : "Circumstances …"}
        </Button>
      }
    >
      <h3 className="text-sm">Circumstances of the trial</h3>
      {operation === "reset" && (
        <p className="text-soft">
          An operator reset asks neither history nor minimum age: these count for an own change.
        </p>
      )}
      <Moment
        label="As of"
        empty="now"
        value={now}
        onChange={(value) => setCircumstances({ ...circumstances, now: value })}
      />
      <Moment
        label="Present password set"
        empty="as the directory has it"
        value={passwordSet}
        onChange={(value) => setCircumstances({ ...circumstances, passwordSet: value })}
      />
      <EarlierPasswords
        earlier={earlier}
        onChange={(next) => setCircumstances({ ...circumstances, earlier: next })}
      />
      <div className="flex justify-between">
        <Button
          disabled={given.length === 0}
          onClick={() => setCircumstances({ ...AS_IT_IS, operation })}
        >
          As it is
        </Button>
        <Popover.Close asChild>
          <Button tone="main">Done</Button>
        </Popover.Close>
      </div>
    </Drop>
  );
}

function Moment({
  label,
  empty,
  value,
  onChange,
}: {
  label: string;
  empty: string;
  value: string;
  onChange: (value: string) => void;
}) {
  return (
    <div className="grid grid-cols-[150px_minmax(0,1fr)] items-baseline gap-2 tiny:grid-cols-1">
      <span aria-hidden>{label}</span>
      <MomentField label={label} value={value} empty={empty} onChange={onChange} />
    </div>
  );
}

function EarlierPasswords({
  earlier,
  onChange,
}: {
  earlier: Earlier[];
  onChange: (earlier: Earlier[]) => void;
}) {
  const { shown } = useBench();
  const next = Math.max(0, ...earlier.map((e) => e.back)) + 1;
  const change = (at: number, changes: Partial<Earlier>) =>
    onChange(earlier.map((e, n) => (n === at ? { ...e, ...changes } : e)));
  return (
    <form onSubmit={(event) => event.preventDefault()}>
      <fieldset className="space-y-1.5">
        <legend className="mb-1">Earlier passwords</legend>
        <p className="text-xs text-soft">
          Only the directory knows the real ones. Invented ones given here are used for this trial
          and kept nowhere.
        </p>
        {earlier.map((one, at) => (
          <div key={at} className="grid grid-cols-[62px_minmax(0,1fr)_auto] items-center gap-1.5">
            <TextInput
              type="number"
              min={1}
              max={1025}
              aria-label={`How far back password ${at + 1} is; 1 is the present one`}
              value={one.back}
              className="font-mono"
              onChange={(event) =>
                change(at, {
                  back: Math.min(1025, Math.max(1, Math.round(Number(event.target.value)) || 1)),
                })
              }
            />
            <TextInput
              type={shown ? "text" : "password"}
              autoComplete="off"
              spellCheck={false}
              aria-label={`Password ${one.back} back`}
              value={one.text}
              maxLength={4000}
              className="font-mono"
              onChange={(event) => change(at, { text: event.target.value })}
            />
            <Button
              tone="quiet"
              className="px-1.5"
              aria-label={`Take away password ${one.back} back`}
              onClick={() => onChange(earlier.filter((_, n) => n !== at))}
            >
              ✕
            </Button>
          </div>
        ))}
        <Button onClick={() => onChange([...earlier, { back: next, text: "" }])}>
          {next === 1 ? "+ The present one" : `+ ${next} back`}
        </Button>
      </fieldset>
    </form>
  );
}
