import { useParams } from "react-router";
import { ApiError, type Schemas } from "../api/client";
import { useMakeCaller, type CallerKind } from "../api/gate";
import { at } from "../draft/place";
import { Button, Refused } from "../shared/controls";
import { Select, TextInput } from "../shared/fields";
import { useKept } from "../shared/kept";
import { KINDS } from "./kinds";

interface Typed {
  title: string;
  kind: CallerKind;
  reason: string;
}

const START: Typed = { title: "", kind: "hook", reason: "" };
const blank = (typed: Typed) => typed.title === "" && typed.reason === "";

interface Props {
  domain: string;
  onMade: (made: Schemas["CallerMade"]) => void;
}

/** Lets one more ask. */
export function NewCaller({ domain, onMade }: Props) {
  const { domain: place = "-" } = useParams();
  const work = {
    place,
    about: `caller of ${domain}`,
    label: "A caller at the gate",
    to: `/${at(place)}/sources?gate=${encodeURIComponent(domain)}`,
  };
  const [typed, setTyped, forget] = useKept<Typed>(work, START, blank);
  const make = useMakeCaller(domain);
  const fields = make.error instanceof ApiError ? make.error.fields : [];
  const wrong = fields.find((one) => one.field === "title")?.message;
  const set = (part: Partial<Typed>) => {
    if (make.isError) make.reset();
    setTyped({ ...typed, ...part });
  };
  return (
    <form
      aria-label="New caller"
      className="mt-2 space-y-1.5 pb-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (make.isPending) return;
        make.mutate(
          { title: typed.title.trim(), kind: typed.kind, reason: typed.reason.trim() },
          {
            onSuccess: (made) => {
              forget(typed);
              onMade(made);
            },
          },
        );
      }}
    >
      <p className="text-soft">Let one more ask:</p>
      <Select
        aria-label="What it is"
        className="block w-full"
        value={typed.kind}
        onChange={(event) => set({ kind: event.target.value as CallerKind })}
      >
        {Object.entries(KINDS).map(([kind, { label }]) => (
          <option key={kind} value={kind}>
            {label}
          </option>
        ))}
      </Select>
      <TextInput
        aria-label="What it is called"
        placeholder="called, such as dc1"
        className="block w-full"
        maxLength={100}
        required
        aria-invalid={wrong ? true : undefined}
        value={typed.title}
        onChange={(event) => set({ title: event.target.value })}
      />
      <div className="flex gap-1.5">
        <TextInput
          aria-label="Reason"
          placeholder="Reason"
          title="Recorded in the audit log"
          className="min-w-0 flex-1"
          maxLength={500}
          required
          value={typed.reason}
          onChange={(event) => set({ reason: event.target.value })}
        />
        <Button type="submit" aria-busy={make.isPending}>
          Let it ask
        </Button>
      </div>
      <Refused error={wrong ?? make.error} />
    </form>
  );
}
