import { useStrata } from "../api/domains";
import { useTemplateUpload } from "../api/sources";
import { Refusal } from "../kit/Alert";
import { PartHead } from "../kit/PartHead";
import { May } from "../shared/May";

/**
 * The security templates of the group policy objects linked in a domain: read or not, and a way to
 * read one.
 */
export function Templates({ domain }: { domain: string }) {
  const strata = useStrata(domain);
  const upload = useTemplateUpload(domain);
  const sources = strata.data?.bedrock.sources ?? [];
  if (sources.length === 0) return null;
  return (
    <section aria-label="Security templates" className="mt-2">
      <PartHead level={4}>Security templates</PartHead>
      <ul>
        {sources.map((source) => (
          <li
            key={source.gpo + source.container}
            className="flex items-center gap-2 border-b border-line/60 py-1"
          >
            <span className="truncate" title={source.name}>
              {source.name}
            </span>
            <span className="ml-auto shrink-0 text-xs text-soft">
              {source.says ? `✓ says ${Object.keys(source.says).length} settings` : "not read"}
            </span>
            <May right="load" at={domain}>
              <label className="shrink-0 cursor-pointer text-sm underline focus-within:outline-2 focus-within:outline-focus">
                Read its template …
                <input
                  type="file"
                  className="sr-only"
                  aria-label={`Template of ${source.name}`}
                  onChange={(event) => {
                    const file = event.target.files?.[0];
                    if (file) upload.mutate({ gpo: source.gpo, file });
                    event.target.value = "";
                  }}
                />
              </label>
            </May>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-xs text-soft">
        The file GptTmpl.inf in the object’s folder Machine/Microsoft/Windows NT/SecEdit of the
        domain share.
      </p>
      <Refusal error={upload.error} />
    </section>
  );
}
