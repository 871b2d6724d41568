import { useAddition } from "../api/additions";
import { Button, Failed } from "../shared/controls";
import { PartHead } from "../shared/PartHead";
import { spanText } from "../shared/span";
import { Word } from "../shared/Word";

/** What a policy asks beyond the directory's own rules, in short, with the way to change it. */
export function AskedBesides({
  domain,
  policy,
  onOpen,
}: {
  domain: string;
  policy: string;
  onOpen: () => void;
}) {
  const addition = useAddition(domain, policy);
  const paths = [
    { title: "As a password", rules: addition.data?.password },
    { title: "As a phrase", rules: addition.data?.phrase },
  ];
  const nothing = !addition.data?.password && !addition.data?.phrase;
  return (
    <section aria-label="Asked besides">
      <PartHead
        beside={
          <Button id="open-besides" size="small" onClick={onOpen}>
            Open
          </Button>
        }
      >
        <Word of="besides">Asked besides</Word>
      </PartHead>
      {addition.error && <Failed error={addition.error} retry={() => void addition.refetch()} />}
      {addition.data && nothing && addition.data.bands.length === 0 && (
        <p className="py-1 text-soft">Nothing beyond the directory’s own rules.</p>
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
