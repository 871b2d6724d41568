import type { useTryConnection } from "../api/directories";
import { PartHead } from "../kit/PartHead";

const MARKS = { works: "✓", fails: "✕", note: "△" } as const;
const TONES = { works: "", fails: "text-fail", note: "text-warn" } as const;

/** The result of trying a connection, step by step. */
export function WhatWorks({
  steps,
}: {
  steps: NonNullable<ReturnType<typeof useTryConnection>["data"]>;
}) {
  return (
    <section aria-label="What works" role="status">
      <PartHead>What works</PartHead>
      <ul>
        {steps.map((step, number) => (
          <li key={number} className={`border-b border-line/60 py-1 ${TONES[step.state]}`}>
            {MARKS[step.state]} {step.title}
            <span className="block text-xs break-words">{step.told}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
