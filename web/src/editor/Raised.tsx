import { Link } from "react-router";
import { useFindings } from "../api/findings";
import { at } from "../draft/place";

/** What is raised about one policy, beyond what the panel already says about ties and idleness. */
export function Raised({ domain, guid }: { domain: string; guid: string }) {
  const findings = useFindings(domain);
  const mine =
    findings.data?.filter(
      (f) => f.policy === guid && !f.accepted && f.kind !== "tie" && f.kind !== "idle",
    ) ?? [];
  if (mine.length === 0) return null;
  return (
    <section aria-label="Raised about it" className="text-xs">
      <ul>
        {mine.map((f) => (
          <li key={f.key} title={f.why}>
            <span aria-hidden className={f.severity === "high" ? "text-fail" : "text-warn"}>
              {f.severity === "high" ? "▲" : "△"}
            </span>{" "}
            {f.title}
          </li>
        ))}
      </ul>
      <Link
        className="inline-flex h-6 items-center underline"
        to={`/${at(domain)}/strata?policy=findings`}
      >
        All findings
      </Link>
    </section>
  );
}
