import { useMakeServerSet } from "../api/servers";
import { at } from "../draft/place";
import { Button, Refused } from "../shared/controls";
import { TextInput } from "../shared/fields";
import { useKept } from "../shared/kept";

const blank = (name: string) => name === "";

/** A new set of servers, by its name. */
export function NewSet({ domain, onMade }: { domain: string; onMade: (id: number) => void }) {
  const make = useMakeServerSet(domain);
  const work = {
    place: domain,
    about: "new set of servers",
    label: "The name of a new set of servers",
    to: `/${at(domain)}/servers?set=new`,
  };
  const [name, setName, forget] = useKept<string>(work, "", blank);
  return (
    <form
      aria-label="New set of servers"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() && !make.isPending)
          make.mutate(name.trim(), {
            onSuccess: ({ id }) => {
              forget(name);
              onMade(id);
            },
          });
      }}
    >
      <div className="flex flex-wrap items-end gap-2">
        <label className="min-w-0">
          A new set
          <TextInput
            className="mt-0.5 block w-56 max-w-full"
            placeholder="such as Web servers"
            maxLength={64}
            required
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <Button type="submit" tone="main" disabled={make.isPending || !name.trim()}>
          Make it
        </Button>
      </div>
      <Refused error={make.error} />
    </form>
  );
}
