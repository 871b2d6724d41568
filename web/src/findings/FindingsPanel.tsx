import { useState } from "react";
import type { Schemas } from "../api/client";
import { useFindings } from "../api/findings";
import { PanelHead } from "../kit/PanelHead";
import { Choices } from "../kit/Choices";
import { Failure, Loading } from "../kit/Loading";
import { Word } from "../shared/Word";
import { FindingItem } from "./FindingItem";

type Show = "open" | "high" | "accepted";

const FITS: Record<Show, (f: Schemas["FindingInfo"]) => boolean> = {
  open: (f) => !f.accepted,
  high: (f) => !f.accepted && f.severity === "high",
  accepted: (f) => f.accepted !== null,
};

/** Everything worth raising in the domain, gravest first. */
export function FindingsPanel({ domain, onClose }: { domain: string; onClose: () => void }) {
  const findings = useFindings(domain);
  const [show, setShow] = useState<Show>("open");
  if (findings.isPending) return <Loading what="the findings" />;
  if (findings.error)
    return <Failure error={findings.error} retry={() => void findings.refetch()} />;
  if (!findings.data) return <Loading what="the findings: the server is still looking" />;
  const { data } = findings;
  const count = (which: Show) => data.filter(FITS[which]).length;
  const shown = data.filter(FITS[show]);
  return (
    <section aria-label="Findings">
      <PanelHead
        title="Findings"
        detail={`${count("open")} open, ${count("accepted")} accepted`}
        onClose={onClose}
      />
      <div className="px-4 pb-2">
        <Choices
          label="Which findings"
          value={show}
          onChange={setShow}
          choices={[
            { value: "open", label: `Open ${count("open")}` },
            { value: "high", label: `Grave ${count("high")}` },
            { value: "accepted", label: `Accepted ${count("accepted")}` },
          ]}
        />
      </div>
      <p className="px-4 pb-1 text-xs text-soft">
        ▲ <Word of="grave">grave</Word> △ medium ○ minor
      </p>
      {shown.length === 0 && (
        <p className="px-4 py-2 text-soft">
          {show === "accepted" ? "Nothing is accepted." : "✓ Nothing to raise."}
        </p>
      )}
      <ul>
        {shown.map((f) => (
          <FindingItem key={f.key} domain={domain} finding={f} />
        ))}
      </ul>
    </section>
  );
}
