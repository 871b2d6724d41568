import { useMemo } from "react";
import { useParams } from "react-router";
import { useMay, useStrata } from "../api/domains";
import { useFindings } from "../api/findings";
import { useKeys } from "../app/useKeys";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { useTitle } from "../shared/useTitle";
import { useUrlState } from "../shared/useUrlState";
import { domainOf } from "../draft/place";
import { Legend } from "./Legend";
import { narrow } from "./narrow";
import { ReadingLine, useReading } from "./ReadingLine";
import { StrataNotices } from "./StrataNotices";
import { StrataPanels } from "./StrataPanels";
import { Section } from "./Section";
import { ReportMenu } from "./ReportMenu";
import { useWeighing } from "./useWeighing";
import { WeighBar } from "./WeighBar";
import { Zoom } from "./Zoom";
import { TextInput } from "../kit/inputs";
import { May } from "../shared/May";

const PANELS: Record<string, string> = {
  new: "New policy",
  findings: "Findings",
  domain: "Bedrock",
};

export function StrataScreen() {
  const { domain = "" } = useParams();
  const [show] = useUrlState("show");
  const strata = useStrata(domain, show);
  const weighing = useWeighing(domain, strata.data?.layers ?? []);
  const [selected, choose] = useUrlState("policy");
  const select = (policy: string, also: Record<string, string> = {}) =>
    choose(policy, { besides: "", list: "", ...also });
  const [besides, setBesides] = useUrlState("besides");
  // On a slow line the layers come first.
  const findings = useFindings(domain, !strata.isPending);
  const open = findings.data?.filter((f) => !f.accepted).length;
  const [words, setWords] = useUrlState("layers");
  const [focus] = useUrlState("focus");
  const shown = useMemo(
    () => (strata.data ? narrow(strata.data, words, focus) : null),
    [strata.data, words, focus],
  );
  const raised = useMemo(() => {
    const counts = new Map<string, number>();
    for (const f of findings.data ?? [])
      if (f.policy && !f.accepted) counts.set(f.policy, (counts.get(f.policy) ?? 0) + 1);
    return counts;
  }, [findings.data]);
  const reading = useReading();
  const may = useMay(domain);
  const named = strata.data?.layers.find((layer) => layer.guid === selected)?.name;
  useTitle(PANELS[selected] ?? named, "Strata", domainOf(domain));
  useKeys({
    n: () => may("draft") && select("new"),
    Escape: () =>
      weighing.weighing ? weighing.giveUp() : besides ? setBesides("", { list: "" }) : select(""),
  });

  if (strata.isPending || strata.error) {
    return (
      <>
        <h1 className="sr-only">Which policy holds where</h1>
        {strata.error ? (
          <Failure error={strata.error} retry={() => void strata.refetch()} />
        ) : (
          <Loading what="the strata" />
        )}
      </>
    );
  }
  if (!shown) return null;
  const { layers, populations } = strata.data;
  const crowded = layers.length > 10 || populations.length > 20;

  return (
    <div className="@container flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 pt-2 pb-1 small:px-2 small:pt-1">
        <h1 className="text-base whitespace-nowrap tiny:sr-only">Which policy holds where</h1>
        <Legend />
        <span className="unprinted ml-auto flex flex-wrap gap-1.5">
          <Button
            onClick={() => select(selected === "findings" ? "" : "findings")}
            aria-pressed={selected === "findings"}
          >
            <span aria-hidden className="text-warn">
              △
            </span>
            {open === undefined ? "Findings …" : `${open} finding${open === 1 ? "" : "s"}`}
          </Button>
          <ReportMenu domain={domain} ready={findings.data !== undefined} />
          <May right="draft" at={domain}>
            <Button onClick={() => select("new")}>+ Policy</Button>
          </May>
        </span>
      </div>
      <div className="h-7 shrink-0 px-4 small:px-2">
        {weighing.weighing ? (
          <WeighBar
            answer={weighing.answer}
            error={weighing.error}
            busy={weighing.busy}
            onTake={may("draft") ? weighing.take : undefined}
            onGiveUp={weighing.giveUp}
          />
        ) : (
          <ReadingLine reading={reading} />
        )}
      </div>
      <StrataNotices strata={strata.data} />
      {(crowded || words || focus || show) && (
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 pb-1 small:px-2">
          <TextInput
            type="search"
            aria-label="Layers named like"
            placeholder="Layers named like …"
            className="w-56"
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
          {shown.layers.length < layers.length && (
            <span className="text-soft">
              {shown.layers.length} of {layers.length} layers
            </span>
          )}
          {(words || focus || show) && (
            <Button onClick={() => setWords("", { focus: "", show: "" })}>Show all</Button>
          )}
          <Zoom />
        </div>
      )}
      <Section
        domain={domain}
        strata={shown}
        whole={shown === strata.data}
        raised={raised}
        selected={selected}
        onSelect={select}
        onRead={reading.set}
        weighing={weighing}
      />
      <StrataPanels
        domain={domain}
        strata={strata.data}
        selected={selected}
        onSelect={select}
        onWeigh={weighing.setWeighing}
      />
    </div>
  );
}
