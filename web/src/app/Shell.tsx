import { useEffect, useRef, useState } from "react";
import { Outlet, useParams } from "react-router";
import { Bench } from "../bench/Bench";
import { BenchProvider, useBench } from "../bench/BenchProvider";
import { Keys } from "./Keys";
import { Known } from "./Known";
import { LiveRegion } from "./LiveRegion";
import { Rail } from "./Rail";
import { SideSlot } from "../kit/SidePanel";
import { TopBar } from "./TopBar";
import { useToggleDraft } from "../draft/useToggleDraft";
import { useUndoKeys } from "../draft/useUndoKeys";
import { domainOf, rememberDomain } from "../draft/place";
import { useFocusKept } from "../shared/focus";
import { useKeys } from "./useKeys";
import { May } from "../shared/May";

/**
 * The frame every screen stands in: rail, top bar, the screen, the bench below it and a panel at
 * the side.
 */
export function Shell() {
  const { domain = "-" } = useParams();
  return (
    <Known>
      {(me) => (
        <BenchProvider domain={domainOf(domain)}>
          <Frame domain={domain} me={me} />
        </BenchProvider>
      )}
    </Known>
  );
}

function Frame({ domain, me }: { domain: string; me: string }) {
  const bench = useBench();
  const finder = useRef<HTMLInputElement>(null);
  const candidate = useRef<HTMLInputElement>(null);
  const screen = useRef<HTMLElement>(null);
  const [keysShown, setKeysShown] = useState(false);
  const [side, setSide] = useState<HTMLElement | null>(null);

  const toggle = useToggleDraft(domain);
  useUndoKeys(domain);
  useFocusKept();
  useKeys({
    d: toggle,
    "/": () => finder.current?.focus(),
    b: () => {
      bench.setFace("candidate");
      candidate.current?.focus();
    },
    "?": () => setKeysShown(true),
  });

  useEffect(() => {
    if (domain !== "-") rememberDomain(me, domain);
  }, [domain, me]);

  useEffect(() => {
    if (document.activeElement === document.body) screen.current?.focus();
  }, []);

  return (
    <SideSlot.Provider value={side}>
      <a
        href="#screen"
        className="absolute top-1 left-1 z-50 -translate-y-12 rounded bg-ink px-3 py-1.5 text-white focus:translate-y-0"
        onClick={(event) => {
          event.preventDefault();
          screen.current?.focus();
        }}
      >
        Skip to the screen
      </a>
      <div className="frame grid h-full grid-cols-[64px_minmax(0,1fr)] small:grid-cols-[52px_minmax(0,1fr)] tiny:grid-cols-1 tiny:grid-rows-[minmax(0,1fr)_auto]">
        <Rail domain={domain} />
        <div className="frame-body relative grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)_auto] grid-rows-[auto_minmax(0,1fr)_auto] small:grid-cols-1 tiny:row-start-1">
          <TopBar domain={domain} me={me} finder={finder} onKeys={() => setKeysShown(true)} />
          <main
            ref={screen}
            id="screen"
            tabIndex={-1}
            className="relative col-start-1 row-start-2 min-h-0 min-w-0 overflow-hidden outline-none"
          >
            <Outlet />
          </main>
          <aside
            ref={setSide}
            id="details"
            aria-label="Details"
            className="relative col-start-2 row-span-2 row-start-2 min-h-0 w-[364px] overflow-y-auto border-l border-line bg-sheet empty:hidden small:col-start-1 small:z-10 small:w-auto small:border-l-0"
          />
          {domain !== "-" && (
            <May right="bench" at={domain}>
              <Bench domain={domain} candidateRef={candidate} />
            </May>
          )}
        </div>
      </div>
      <LiveRegion />
      <Keys open={keysShown} onOpenChange={setKeysShown} />
    </SideSlot.Provider>
  );
}
