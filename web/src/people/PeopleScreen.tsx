import { Table } from "../kit/Table";
import { useAddPerson, useMe, usePeople } from "../api/people";
import { SidePanel } from "../kit/SidePanel";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { Select, TextInput } from "../kit/inputs";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { awayText } from "../shared/span";
import { useTitle } from "../shared/useTitle";
import { useUrlState } from "../shared/useUrlState";
import { Acts } from "./Acts";
import { OneTime } from "./OneTime";
import { PersonPanel } from "./PersonPanel";
import { whereText } from "./where";

/** Who may sign in and what they may do, and what waits for a second person. */
export function PeopleScreen() {
  const people = usePeople();
  const [chosen, choose] = useUrlState("person");
  const provider = useMe().data?.provider ?? "";
  useTitle("People");
  const { data } = people;
  if (!data)
    return (
      <>
        <h1 className="sr-only">People</h1>
        <Acts />
        {people.error ? (
          <Failure error={people.error} retry={() => void people.refetch()} />
        ) : (
          <Loading what="who may sign in" />
        )}
      </>
    );
  const person = data.people.find((one) => one.name === chosen);
  return (
    <div tabIndex={-1} className="h-full overflow-y-auto px-4 pt-2.5 pb-4 small:px-2">
      <h1 className="text-base">People</h1>
      <p className="mb-2 text-soft">
        Who may sign in, and what they may do where. Every change stands in the trail.
      </p>
      <Acts />
      <Table label="People" heads={["Name", "May do as", "Seen"]}>
        {data.people.map((one) => (
          <tr
            key={one.name}
            className={`border-b border-line/60 ${one.name === chosen ? "bg-hover" : ""}`}
          >
            <th scope="row" className="max-w-56 py-1 pr-3 font-medium">
              <button
                type="button"
                className="flex min-h-6 max-w-full items-center truncate underline"
                title={one.name}
                aria-expanded={one.name === chosen}
                onClick={() => choose(one.name === chosen ? "" : one.name)}
              >
                {one.name}
              </button>
            </th>
            <td className="py-1 pr-3">
              {one.grants.length === 0 && <span className="text-soft">nothing yet</span>}
              {one.grants.map((held) => `${held.role} ${whereText(held.domain)}`).join(", ")}
              {one.shut && <span className="ml-2 text-fail">shut out</span>}
              {one.elsewhere && !one.shut && (
                <span className="ml-2 text-soft">signs in at {provider || "the provider"}</span>
              )}
              {one.directory && !one.shut && (
                <span className="ml-2 text-soft">signs in at {one.directory}</span>
              )}
              {one.one_time && !one.shut && (
                <span className="ml-2 text-soft">has a one-time password</span>
              )}
            </td>
            <td className="py-1 whitespace-nowrap text-soft">
              {one.seen_at ? awayText(one.seen_at) : "not signed in"}
            </td>
          </tr>
        ))}
      </Table>
      {data.domains.includes("*") && <AddPerson provider={provider} onAdded={choose} />}
      <section aria-label="Roles" className="mt-4 max-w-[760px] text-xs text-soft">
        <h2 className="text-sm text-ink">What the roles allow</h2>
        <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-3">
          {data.roles.map(({ role, allows }) => (
            <div key={role} className="contents">
              <dt className="font-medium text-ink">{role}</dt>
              <dd>{allows.join(", ")}</dd>
            </div>
          ))}
        </dl>
      </section>
      <SidePanel about={person ? person.name : ""}>
        {person && (
          <PersonPanel
            key={person.name}
            person={person}
            roles={data.roles.map(({ role }) => role)}
            domains={data.domains}
            onClose={() => choose("")}
          />
        )}
      </SidePanel>
    </div>
  );
}

interface AddProps {
  provider: string;
  onAdded: (name: string) => void;
}

function AddPerson({ provider, onAdded }: AddProps) {
  const add = useAddPerson();
  const form = useForm({
    work: null,
    start: { name: "", elsewhere: provider !== "" },
    writes: [add],
  });
  const { name, elsewhere } = form.value;
  return (
    <Form
      of={form}
      label="Add somebody"
      className="mt-3 space-y-1.5"
      onSubmit={() =>
        form.send(
          () => add.mutateAsync({ name, elsewhere: elsewhere && provider !== "" }),
          (_, sent) => {
            form.saved(sent, { ...sent, name: "" });
            onAdded(name);
          },
        )
      }
    >
      <div className="flex flex-wrap items-center gap-2">
        <TextInput
          aria-label="Name to sign in with"
          placeholder="Name to sign in with"
          className="w-56"
          maxLength={64}
          {...form.text("name")}
          required
          aria-invalid={form.errorOf("name") !== undefined}
        />
        {provider && (
          <Select
            aria-label="Way in"
            value={String(elsewhere)}
            onChange={(event) => form.change({ elsewhere: event.target.value === "true" })}
          >
            <option value="true">signs in at {provider}</option>
            <option value="false">gets a one-time password</option>
          </Select>
        )}
        <Button type="submit" disabled={add.isPending}>
          Add somebody
        </Button>
      </div>
      <Refusal error={add.error} />
      {add.data?.one_time && <OneTime name={add.variables.name} password={add.data.one_time} />}
    </Form>
  );
}
