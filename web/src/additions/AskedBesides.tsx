import { EmptyState } from "../kit/EmptyState";
import type { ReactNode } from "react";
import { useAddition } from "../api/additions";
import { Failure } from "../kit/Loading";
import { PartHead } from "../kit/PartHead";
import { spanText } from "../shared/span";
import { Word } from "../shared/Word";

interface Props {
  domain: string;
  policy: string;
  /** Whether it is left out where there is nothing. */
  quiet?: boolean;
  /** What leads to all of it. */
  open: ReactNode;
}

/** What a policy asks beyond the directory's own rules, in short, with the way to change it. */
export function AskedBesides({ domain, policy, quiet, open }: Props) {
  const addition = useAddition(domain, policy);
  const paths = [
    { title: "As a password", rules: addition.data?.password },
    { title: "As a phrase", rules: addition.data?.phrase },
  ];
  const nothing = !addition.data?.password && !addition.data?.phrase;
  if (quiet && !addition.error && nothing && !addition.data?.bands.length) return null;
  return (
    <section aria-label="Asked besides">
      <PartHead beside={open}>
        <Word of="besides">Asked besides</Word>
      </PartHead>
      {addition.error && <Failure error={addition.error} retry={() => void addition.refetch()} />}
      {addition.data && nothing && addition.data.bands.length === 0 && (
        <EmptyState>Nothing beyond the directory’s own rules.</EmptyState>
      )}
      {paths.map(
        ({ title, rules }) =>
          rules && (
            <div key={title} className="py-0.5">
              <h4 className="text-xs font-normal text-soft">{title}</h4>
              <ul>
                {rules.map((one, number) => (
                  <li key={number} className="break-words">
                    {one.said.charAt(0).toUpperCase() + one.said.slice(1)}
                  </li>
                ))}
              </ul>
            </div>
          ),
      )}
      {addition.data && addition.data.bands.length > 0 && (
        <p className="py-0.5">
          <span className="text-xs text-soft">Lives </span>
          {addition.data.bands
            .map((band) => `${spanText(band.lifetime)} from ${band.length}`)
            .join(", ")}
          <span className="text-xs text-soft"> characters on</span>
        </p>
      )}
    </section>
  );
}
