import { AdditionPanel } from "../additions/AdditionPanel";
import type { Schemas } from "../api/client";
import { useMay } from "../api/domains";
import { BedrockPanel } from "../editor/BedrockPanel";
import { PolicyEditor } from "../editor/PolicyEditor";
import { FindingsPanel } from "../findings/FindingsPanel";
import { SidePanel } from "../kit/SidePanel";
import { focusOn } from "../shared/focus";
import { useUrlState } from "../shared/useUrlState";
import { NewInDraft } from "./NewInDraft";
import type { WeighingState } from "./useWeighing";

interface Props {
  domain: string;
  strata: Schemas["Strata"];
  /** The policy in the address: a GUID, "domain", "new" or "findings". */
  selected: string;
  onSelect: (policy: string, also?: Record<string, string>) => void;
  onWeigh: WeighingState["setWeighing"];
}

/** The panel at the side of the strata. */
export function StrataPanels({ domain, strata, selected, onSelect, onWeigh }: Props) {
  const [copyOf] = useUrlState("copy");
  const [besides, setBesides] = useUrlState("besides");
  const [focus, setFocus] = useUrlState("focus");
  const may = useMay(domain);
  const named = strata.layers.find((layer) => layer.guid === selected)?.name;
  return (
    <SidePanel about={besides ? `${selected} besides` : selected}>
      {selected === "new" && may("draft") ? (
        <NewInDraft
          key={`${domain} ${copyOf}`}
          domain={domain}
          layers={strata.layers}
          copyOf={copyOf}
          onMade={(guid) => onSelect(guid, { copy: "" })}
          onClose={() => onSelect("", { copy: "" })}
        />
      ) : selected === "findings" ? (
        <FindingsPanel domain={domain} onClose={() => onSelect("")} />
      ) : besides && (selected === "domain" || named) ? (
        <AdditionPanel
          key={`${domain} ${selected}`}
          domain={domain}
          policy={selected}
          name={named ?? "the domain policy"}
          onBack={() => {
            setBesides("", { list: "" });
            focusOn("open-besides");
          }}
        />
      ) : selected === "domain" ? (
        <BedrockPanel
          key={domain}
          domain={domain}
          strata={strata}
          onClose={() => onSelect("")}
          onBesides={() => setBesides("1")}
        />
      ) : selected ? (
        <PolicyEditor
          key={`${domain} ${selected}`}
          domain={domain}
          guid={selected}
          onSelect={onSelect}
          onCopy={() => onSelect("new", { copy: selected })}
          onWeigh={onWeigh}
          focused={focus === selected}
          onFocus={(on) => setFocus(on ? selected : "")}
          onBesides={() => setBesides("1")}
        />
      ) : null}
    </SidePanel>
  );
}
