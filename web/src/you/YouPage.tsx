import { useEffect, useRef, useState, type ReactNode } from "react";
import type { Schemas } from "../api/client";
import { useGoOut, useYou } from "../api/you";
import { Mark } from "../app/Mark";
import { WholePage } from "../app/WholePage";
import { Alert } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { useFocusKept } from "../shared/focus";
import { useTitle } from "../shared/useTitle";
import { ComeIn } from "./ComeIn";
import { OwnPassword } from "./OwnPassword";

/** The page of somebody under a policy: what holds for their password, and another one. */
export function YouPage() {
  const you = useYou();
  const [held, setHeld] = useState<Schemas["OwnInfo"] | null>(null);
  useTitle("Your password", held?.domain);
  const person = you.data?.person;
  // Who was here stays on show when they are known no more: what they have typed is still theirs.
  if (person && person !== held) setHeld(person);
  if (!you.data)
    return (
      <WholePage>
        {you.error ? (
          <Failure error={you.error} retry={() => void you.refetch()} />
        ) : (
          <Loading what="your page" />
        )}
      </WholePage>
    );
  const { domains } = you.data;
  if (!held)
    return (
      <Sheet
        narrow
        head={<Head title="Your password" told="What holds for it, and another one." />}
      >
        {domains.length === 0 ? (
          <Alert>This page is switched off here. Ask the help desk.</Alert>
        ) : (
          <ComeIn domains={domains} />
        )}
      </Sheet>
    );
  const over = !person;
  return (
    <Sheet
      head={
        <Head
          title="Your password"
          told={`For ${held.display_name || held.name} (${held.name}), ${held.domain}`}
        >
          <GoOut onGone={() => setHeld(null)} />
        </Head>
      }
    >
      {over && (
        <section aria-label="Sign in again" className="mb-4 max-w-80">
          <p className="mb-2">
            You are not signed in any more. Do it once more: what you have typed is still there.
          </p>
          <ComeIn domains={[held.domain]} known={held.name} />
        </section>
      )}
      {you.error && <Failure error={you.error} retry={() => void you.refetch()} />}
      <div inert={over}>
        <OwnPassword key={`${held.name}@${held.domain}`} you={held} />
      </div>
    </Sheet>
  );
}

function Sheet({
  narrow,
  head,
  children,
}: {
  narrow?: boolean;
  head: ReactNode;
  children: ReactNode;
}) {
  const main = useRef<HTMLElement>(null);
  useFocusKept();
  useEffect(() => {
    if (document.activeElement === document.body) main.current?.focus();
  }, []);
  return (
    <div className="h-full overflow-y-auto bg-paper p-2">
      <main
        id="screen"
        ref={main}
        tabIndex={-1}
        className={`mx-auto my-2 rounded-lg border border-line bg-sheet px-8 py-6 text-[15px] leading-relaxed small:px-4 small:py-4 ${narrow ? "max-w-[420px]" : "max-w-[1000px]"}`}
      >
        {head}
        {children}
      </main>
    </div>
  );
}

function Head({ title, told, children }: { title: string; told: string; children?: ReactNode }) {
  return (
    <header className="mb-4 flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-line pb-4">
      <Mark size={40} />
      <div className="min-w-0 flex-1 basis-44">
        <h1 className="text-[24px] leading-7">{title}</h1>
        <p className="break-words text-soft">{told}</p>
      </div>
      {children}
    </header>
  );
}

function GoOut({ onGone }: { onGone: () => void }) {
  const out = useGoOut();
  return (
    <Button
      aria-busy={out.isPending}
      onClick={() => {
        if (!out.isPending) out.mutate(undefined, { onSuccess: onGone });
      }}
    >
      Sign out
    </Button>
  );
}
