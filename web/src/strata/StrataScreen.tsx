import { useState } from "react";
import { useParams } from "react-router";
import { useStrata } from "../api/queries";
import { SidePanel } from "../app/SidePanel";
import { useKeys } from "../app/useKeys";
import { BedrockPanel } from "../editor/BedrockPanel";
import { NewPolicy } from "../editor/NewPolicy";
import { PolicyEditor } from "../editor/PolicyEditor";
import { Button, Failed, Loading, Notice } from "../shared/controls";
import { useUrlState } from "../shared/useUrlState";
import { Legend } from "./Legend";
import { Section } from "./Section";
import { useWeighing } from "./useWeighing";
import { WeighBar } from "./WeighBar";

export function StrataScreen() {
  const { domain = "" } = useParams();
  const strata = useStrata(domain);
  const weighing = useWeighing(domain, strata.data?.layers ?? []);
  const [selected, select] = useUrlState("policy");
  const [reading, setReading] = useState("");
  useKeys({ Escape: () => (weighing.weighing ? weighing.giveUp() : select("")) });

  if (strata.isPending) return <Loading what="the strata" />;
  if (strata.error) return <Failed error={strata.error} retry={() => void strata.refetch()} />;
  const { layers } = strata.data;

  return (
    <div className="flex h-full flex-col">
      <div className="flex items-center gap-3 px-4 pt-2.5">
        <h1 className="text-base whitespace-nowrap">Which policy holds where</h1>
        <Legend />
        <Button className="ml-auto" onClick={() => select("new")}>
          + Policy
        </Button>
      </div>
      <div className="h-7 px-4">
        {weighing.weighing ? (
          <WeighBar answer={weighing.answer} error={weighing.error} busy={weighing.busy} onTake={weighing.take} onGiveUp={weighing.giveUp} />
        ) : (
          <p role="status" className="truncate pt-1 text-soft">
            {reading || "The first solid layer under a population is the one it gets. Drag a layer, or press Shift ↑ ↓ on it, to weigh another precedence."}
          </p>
        )}
      </div>
      {layers.length === 0 && (
        <div className="px-4 pt-2">
          <Notice>
            There is no fine-grained policy in this domain: everybody gets the domain policy. “+ Policy” makes the first one.
          </Notice>
        </div>
      )}
      <Section domain={domain} strata={strata.data} selected={selected} onSelect={select} onRead={setReading} weighing={weighing} />
      <SidePanel>
        {selected === "new" ? (
          <NewPolicy domain={domain} layers={layers} onMade={(guid) => select(guid)} onClose={() => select("")} />
        ) : selected === "domain" ? (
          <BedrockPanel strata={strata.data} onClose={() => select("")} />
        ) : selected ? (
          <PolicyEditor key={selected} domain={domain} guid={selected} onSelect={select} onWeigh={weighing.setWeighing} />
        ) : null}
      </SidePanel>
    </div>
  );
}
