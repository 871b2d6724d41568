import type { ReactNode } from "react";

const TONES = {
  warn: "border-warn bg-warnbg",
  fail: "border-fail bg-failbg",
  plain: "border-edge bg-white",
} as const;

/** A message that stands where it matters, with what to do about it. */
export function Alert({
  tone = "plain",
  children,
  role,
}: {
  tone?: keyof typeof TONES;
  children: ReactNode;
  role?: "alert" | "status";
}) {
  return (
    <div role={role} className={`border-l-[3px] px-2.5 py-1.5 text-sm ${TONES[tone]}`}>
      {children}
    </div>
  );
}

/** A refusal and the repair. Draws nothing without an error. */
export function Refusal({ error, also }: { error: Error | string | null; also?: string }) {
  if (!error) return null;
  return (
    <Alert tone="fail" role="alert">
      {typeof error === "string" ? error : error.message} {also}
    </Alert>
  );
}
