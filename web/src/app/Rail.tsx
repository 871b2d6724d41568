import type { ReactNode } from "react";
import { NavLink } from "react-router";
import { useLocks } from "../api/locks";
import { Mark } from "./Mark";
import { at } from "../draft/place";

const ICONS: Record<string, ReactNode> = {
  strata: (
    <path d="M3 6c3-2 5 1.5 9 0s5-1 9 0M3 12c3-2 5 1.5 9 0s5-1 9 0M3 18c3-2 5 1.5 9 0s5-1 9 0" />
  ),
  accounts: (
    <>
      <circle cx="12" cy="8" r="3.6" />
      <path d="M5 20c.6-4 3.4-6 7-6s6.400 2 7 6" />
    </>
  ),
  changes: <path d="M6 4v16M6 8h7a4 4 0 0 1 4 4v8M14 17l3 3 3-3M3.500 6.500 6 4l2.500 2.500" />,
  baselines: (
    <path d="M3 6h10M3 12h10M3 18h10M16 6l1.700 1.700L21 4.500M16 12l1.700 1.700L21 10.500M16 18l1.700 1.700L21 16.500" />
  ),
  servers: (
    <path d="M4 5h16v5H4zM4 14h16v5H4zM7.500 7.500h.010M7.500 16.500h.010M12 7.500h5M12 16.500h2" />
  ),
  exposure: (
    <>
      <path d="M3 12c2.500-4 5.500-6 9-6s6.500 2 9 6c-2.500 4-5.500 6-9 6s-6.500-2-9-6z" />
      <path d="M9.500 12h.010M12 12h.010M14.500 12h.010" />
    </>
  ),
  forecast: <path d="M4 4v16h16M7 15c3 0 4-8 7-8s3 4 6 4" />,
  sources: (
    <>
      <ellipse cx="12" cy="6" rx="7" ry="2.8" />
      <path d="M5 6v12c0 1.500 3.100 2.800 7 2.800s7-1.300 7-2.800V6M5 12c0 1.500 3.100 2.800 7 2.800s7-1.300 7-2.800" />
    </>
  ),
};

const SCREENS = [
  { to: "strata", label: "Strata" },
  { to: "accounts", label: "Accounts" },
  { to: "changes", label: "Changes" },
  { to: "baselines", label: "Baselines" },
  { to: "servers", label: "Servers" },
  { to: "exposure", label: "Exposure" },
  { to: "forecast", label: "Forecast" },
  { to: "sources", label: "Sources" },
];

export function Rail({ domain }: { domain: string }) {
  const locked = useLocks(domain).data?.locked_total ?? 0;
  const shown = domain === "-" ? SCREENS.filter((s) => s.to === "sources") : SCREENS;
  return (
    <nav
      aria-label="Screens"
      className="flex min-h-0 flex-col items-center gap-1 overflow-y-auto bg-rail pt-3 text-railsoft small:gap-0.5 small:pt-1 tiny:row-start-2 tiny:flex-row tiny:gap-0 tiny:py-0.5"
    >
      <div className="mb-2 small:hidden">
        <Mark size={32} />
      </div>
      {shown.map((screen) => (
        <NavLink
          key={screen.to}
          to={`/${at(domain)}/${screen.to}`}
          className={({ isActive }) =>
            `relative grid w-14 shrink-0 justify-items-center gap-0.5 rounded-md py-1.5 text-[11px] focus-visible:-outline-offset-2 small:w-[50px] small:text-[10px] tiny:w-auto tiny:min-w-0 tiny:flex-1 tiny:text-[9px] focus-visible:outline-railink ${isActive ? "bg-railon font-semibold text-railink" : "hover:bg-railhover"}`
          }
        >
          <svg
            width="20"
            height="20"
            viewBox="0 0 24 24"
            fill="none"
            stroke="currentColor"
            strokeWidth="1.7"
            strokeLinecap="round"
            aria-hidden
          >
            {ICONS[screen.to]}
          </svg>
          {screen.label}
          {screen.to === "accounts" && locked > 0 && (
            <span className="absolute top-0.5 right-1 hidden rounded-full bg-railink px-1 text-[10px] font-semibold text-rail small:block">
              {locked.toLocaleString("en")}
              <span className="sr-only"> locked</span>
            </span>
          )}
        </NavLink>
      ))}
    </nav>
  );
}
