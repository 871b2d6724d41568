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

export function StrataScreen() {
  const { domain = "" } = useParams();
  const strata = useStrata(domain);
  const [selected, select] = useUrlState("policy");
  const [reading, setReading] = useState("");
  useKeys({ Escape: () => select("") });

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
      <p role="status" className="h-5 truncate px-4 text-soft">
        {reading || "The first solid layer under a population is the one it gets. Move with the arrow keys to read any cell."}
      </p>
      {layers.length === 0 && (
        <div className="px-4 pt-2">
          <Notice>
            There is no fine-grained policy in this domain: everybody gets the domain policy. “+ Policy” makes the first one.
          </Notice>
        </div>
      )}
      <Section domain={domain} strata={strata.data} selected={selected} onSelect={select} onRead={setReading} />
      <SidePanel>
        {selected === "new" ? (
          <NewPolicy domain={domain} layers={layers} onMade={(guid) => select(guid)} onClose={() => select("")} />
        ) : selected === "domain" ? (
          <BedrockPanel strata={strata.data} onClose={() => select("")} />
        ) : selected ? (
          <PolicyEditor key={selected} domain={domain} guid={selected} onSelect={select} />
        ) : null}
      </SidePanel>
    </div>
  );
}
