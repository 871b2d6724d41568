import { useState } from "react";
import { useBoundaries } from "../api/bench";
import type { Schemas } from "../api/client";
import { useStrata } from "../api/domains";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";

import { focusOn } from "../shared/focus";
import { Word } from "../shared/Word";
import { AS_IT_IS, useBench, type Circumstances } from "./BenchProvider";
import { WhoSetsIt } from "./WhoSetsIt";
import { Select } from "../kit/inputs";

/** The circumstances that put a boundary candidate where it lies, from now on. A reset has none. */
function around(
  boundary: Schemas["BoundaryInfo"],
  operation: Circumstances["operation"],
): Circumstances {
  if (operation === "reset") return { ...AS_IT_IS, operation };
  const now = Math.floor(Date.now() / 1000) * 1000;
  return {
    operation,
    now: new Date(now).toISOString(),
    passwordSet: new Date(now - boundary.set_ago * 1000).toISOString(),
    earlier: [
      ...(boundary.present !== null ? [{ back: 1, text: boundary.present }] : []),
      ...(boundary.back > 0 && (boundary.back > 1 || boundary.present === null)
        ? [{ back: boundary.back, text: boundary.text }]
        : []),
    ],
  };
}

/** The candidates drawn last, and for what. */
export interface Drawn {
  key: string;
  operation: Circumstances["operation"];
  /** As they stood then: the same value as long as nothing in them changes. */
  strata: Schemas["Strata"] | undefined;
  answer: Schemas["BoundariesAnswer"];
}

/**
 * Invented candidates on both sides of each rule of one account or policy. They are drawn anew each
 * time and kept nowhere.
 */
export function BoundariesFace({
  place,
  drawn,
  setDrawn,
}: {
  place: string;
  drawn: Drawn | null;
  setDrawn: (drawn: Drawn | null) => void;
}) {
  const {
    accounts,
    policies,
    circumstances,
    setCircumstances,
    setCandidate,
    setFace,
    shown,
    setShown,
  } = useBench();
  const who = [
    ...accounts.map((name) => ({ key: name, label: name, ask: { account: name } })),
    ...policies.map((p) => ({
      key: p.guid,
      label: `anybody under ${p.name}`,
      ask: { policy: p.guid },
    })),
  ];
  const [key, setKey] = useState(drawn?.key ?? "");
  const boundaries = useBoundaries(place);
  const chosen = who.find((w) => w.key === key) ?? who[0];
  const { operation } = circumstances;
  const strata = useStrata(place).data;
  const found =
    drawn && drawn.key === chosen?.key && drawn.operation === operation && drawn.strata === strata
      ? drawn.answer
      : null;

  const draw = () => {
    if (!chosen) return;
    boundaries.mutate(
      { ...chosen.ask, operation },
      { onSuccess: (answer) => setDrawn({ key: chosen.key, operation, strata, answer }) },
    );
  };
  const lay = (boundary: Schemas["BoundaryInfo"]) => {
    setCandidate(boundary.text);
    setCircumstances(around(boundary, operation));
    setFace("candidate");
    focusOn("candidate");
  };

  return (
    <div className="flex h-full flex-col overflow-y-auto">
      <div className="flex shrink-0 flex-wrap items-center gap-x-2 gap-y-1 px-4 py-1 small:px-2 [&>[role=radiogroup]]:self-center">
        <Word of="boundaries">Boundaries</Word>
        <label className="flex max-w-full min-w-0 items-center gap-1.5">
          <span className="shrink-0 text-soft">Rules of</span>
          <Select value={chosen?.key ?? ""} onChange={(event) => setKey(event.target.value)}>
            {who.length === 0 && <option value="">Nobody is on the bench yet</option>}
            {who.map((w) => (
              <option key={w.key} value={w.key}>
                {w.label}
              </option>
            ))}
          </Select>
        </label>
        <WhoSetsIt />
        <div className="flex gap-1.5">
          <Button tone="main" disabled={!chosen} onClick={draw}>
            {found ? "Draw others" : "Draw candidates"}
          </Button>
          <Button aria-pressed={!shown} onClick={() => setShown(!shown)}>
            {shown ? "Hide" : "Show"}
          </Button>
        </div>
      </div>
      <div
        tabIndex={0}
        role="group"
        aria-label="Boundary candidates"
        className="min-h-24 flex-1 overflow-auto px-4 pb-2 small:px-2"
      >
        {boundaries.error ? (
          <Refusal error={boundaries.error} />
        ) : !found ? (
          <p className="grid h-full place-content-center text-center text-soft">
            One invented candidate that just passes, and for each rule one that it alone refuses:
            enough to test a policy by hand.
          </p>
        ) : (
          <>
            <table aria-label="Boundary candidates" className="w-full border-collapse text-left">
              <thead>
                <tr className="border-b border-line text-soft">
                  {["Comes out", "Candidate", "How it lies", ""].map((head) => (
                    <th key={head} scope="col" className="pr-3 pb-0.5 font-normal">
                      {head || <span className="sr-only">Try it</span>}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {found.candidates.map((b, number) => (
                  <tr key={number} className="border-b border-line/60">
                    <th
                      scope="row"
                      className={`py-0.5 pr-3 font-medium whitespace-nowrap ${b.rule ? "text-fail" : "text-pass"}`}
                    >
                      {b.rule
                        ? `✕ Refused by ${b.rule_label.toLowerCase()} alone${b.path && `, as a ${b.path}`}`
                        : "✓ Accepted"}
                    </th>
                    <td className="max-w-64 py-0.5 pr-3 font-mono break-all">
                      {shown ? b.text : "•".repeat(Math.min(b.text.length, 20))}
                    </td>
                    <td className="py-0.5 pr-3">{b.about}</td>
                    <td className="py-0.5 text-right">
                      <Button size="small" onClick={() => lay(b)}>
                        Try it
                      </Button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            {found.without.map((why) => (
              <p key={why} className="pt-1 text-xs text-soft">
                – {why}
              </p>
            ))}
          </>
        )}
      </div>
    </div>
  );
}
