import { useRef, useState } from "react";
import { Outlet, useParams } from "react-router";
import { useMe } from "../api/queries";
import { Bench } from "../bench/Bench";
import { BenchProvider, useBench } from "../bench/BenchProvider";
import { Failed, Loading } from "../shared/controls";
import { Keys } from "./Keys";
import { Rail } from "./Rail";
import { SideSlot } from "./SidePanel";
import { SignIn } from "./SignIn";
import { TopBar } from "./TopBar";
import { useToggleDraft } from "../draft/useToggleDraft";
import { useUndoKeys } from "../draft/useUndoKeys";
import { domainOf } from "../draft/place";
import { useKeys } from "./useKeys";

/** The frame every screen stands in: rail, top bar, the screen, the bench below it and a panel at the side. */
export function Shell() {
  const { domain = "-" } = useParams();
  return (
    <BenchProvider domain={domainOf(domain)}>
      <Frame domain={domain} />
    </BenchProvider>
  );
}

function Frame({ domain }: { domain: string }) {
  const me = useMe();
  const bench = useBench();
  const finder = useRef<HTMLInputElement>(null);
  const candidate = useRef<HTMLInputElement>(null);
  const [keysShown, setKeysShown] = useState(false);
  const [side, setSide] = useState<HTMLElement | null>(null);

  const toggle = useToggleDraft(domain);
  useUndoKeys(domain);
  useKeys({
    d: toggle,
    "/": () => finder.current?.focus(),
    b: () => {
      bench.setOpen(true);
      bench.setFace("candidate");
      requestAnimationFrame(() => candidate.current?.focus());
    },
    "?": () => setKeysShown(true),
  });

  if (me.isPending) return <Loading what="who you are" />;
  if (me.error) return <Failed error={me.error} retry={() => void me.refetch()} />;
  if (!me.data.name) return <SignIn />;
  const empty = domain === "-";

  return (
    <SideSlot.Provider value={side}>
        <div className="grid h-full grid-cols-[64px_minmax(0,1fr)]">
          <Rail domain={domain} />
          <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_auto] grid-rows-[46px_minmax(0,1fr)]">
            <TopBar domain={domain} me={me.data.name} finder={finder} onKeys={() => setKeysShown(true)} />
            <div className="flex min-h-0 min-w-0 flex-col">
              <main className="min-h-0 flex-1 overflow-hidden">
                <Outlet />
              </main>
              {!empty && <Bench domain={domain} candidateRef={candidate} />}
            </div>
            <aside ref={setSide} aria-label="Details" className="min-h-0 w-[364px] overflow-y-auto border-l border-line bg-sheet empty:hidden" />
          </div>
        </div>
        <Keys open={keysShown} onOpenChange={setKeysShown} />
    </SideSlot.Provider>
  );
}
