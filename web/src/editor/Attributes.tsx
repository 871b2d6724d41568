import { useState } from "react";
import { useAttributes } from "../api/policies";
import type { Schemas } from "../api/client";
import { announce } from "../shared/announce";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";

/**
 * The same thing as the directory holds it: names and raw values, to be compared with what other
 * tools show.
 */
export function Attributes({
  domain,
  kind,
  name,
}: {
  domain: string;
  kind: "policies" | "accounts";
  name: string;
}) {
  const [open, setOpen] = useState(false);
  const attributes = useAttributes(domain, kind, name, open);
  return (
    <details className="unprinted" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer border-b border-line pb-0.5 font-head text-sm font-semibold">
        As attributes
      </summary>
      {open && attributes.isPending && <Loading what="the attributes" />}
      {attributes.error && (
        <Failure error={attributes.error} retry={() => void attributes.refetch()} />
      )}
      {attributes.data && (
        <>
          <dl className="pt-1">
            {attributes.data.map((one) => (
              <div key={one.name} className="border-b border-line/60 py-1">
                <dt className="text-xs text-soft">
                  {one.name}
                  {one.reads && <span> · {one.reads}</span>}
                </dt>
                {one.values.length === 0 && <dd className="text-xs text-soft">no value</dd>}
                {one.values.map((value) => (
                  <dd key={value} className="font-mono text-xs break-all select-all">
                    {value}
                  </dd>
                ))}
              </div>
            ))}
          </dl>
          <Button
            className="mt-2"
            onClick={() => {
              void navigator.clipboard.writeText(lines(attributes.data)).then(
                () => announce("Copied."),
                () => announce("The browser does not allow copying here."),
              );
            }}
          >
            Copy all of it
          </Button>
        </>
      )}
    </details>
  );
}

/** One attribute and value a line, as LDIF has them. */
const lines = (attributes: Schemas["AttributeInfo"][]) =>
  attributes.flatMap((one) => one.values.map((value) => `${one.name}: ${value}`)).join("\n");
