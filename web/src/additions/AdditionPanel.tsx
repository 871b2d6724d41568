import { useMemo, useState } from "react";
import { type Addition, type PathName, type Rule } from "../api/additions";
import { useAddition, useEffects, useSetAddition, useTermLists } from "../api/additions";
import { ApiError, type Schemas } from "../api/client";
import { useExposure } from "../api/exposure";
import { useEnforced } from "../api/gate";
import { ENFORCED } from "../gate/kinds";
import { conflictOf } from "../api/writing";
import { PanelHead } from "../editor/PanelHead";
import { announce } from "../shared/announce";
import { focusAfterwards } from "../shared/focus";
import { Button, Failed, Loading, Notice } from "../shared/controls";
import { changeKept, useKept } from "../shared/kept";
import { May } from "../shared/May";
import { PartHead } from "../shared/PartHead";
import { plural } from "../shared/span";
import { usePaced } from "../shared/usePaced";
import { useWhenFree } from "../shared/useWhenFree";
import { Bands } from "./Bands";
import { begun, ruleOf, typedOf, type Typed } from "./kinds";
import { RuleForm } from "./RuleForm";
import { SampleChoice, type Sample } from "./SampleChoice";
import { TermLists } from "./TermLists";
import { settled, workOn } from "./work";

type Info = Schemas["AdditionInfo"];
type Effect = Schemas["RuleEffectInfo"];
type Effects = NonNullable<ReturnType<typeof useEffects>["data"]>;

const PATHS: { name: PathName; title: string; empty: string }[] = [
  {
    name: "password",
    title: "As a password",
    empty: "No password path: nothing of characters is asked.",
  },
  {
    name: "phrase",
    title: "As a phrase",
    empty: "No phrase path: words in a row are judged like any password.",
  },
];

/** A rule being typed: on which path, and in the place of which one there; null for a new one. */
interface Working {
  path: PathName;
  was: Rule | null;
  typed: Typed;
  /** When it was begun: another one begun meanwhile is not this one typed on. */
  begun: number;
}

const untouched = (working: Working | null) => working === null;

interface Props {
  domain: string;
  policy: string;
  name: string;
  onBack: () => void;
}

/** What a policy asks beyond the directory's own rules, as sentences that can be changed. */
export function AdditionPanel({ domain, policy, name, onBack }: Props) {
  const addition = useAddition(domain, policy);
  const enforced = useEnforced(domain);
  return (
    <div>
      <PanelHead title="Asked besides" detail={name} onClose={onBack} />
      <div className="space-y-3 px-4 pb-4">
        <p className="text-xs text-soft">
          Judged by Hornfels, on top of the directory’s own rules. Whoever is under{" "}
          {name === "the domain policy" ? name : `“${name}”`} has to keep all of one path.{" "}
          {ENFORCED[enforced]}
        </p>
        {addition.isPending ? (
          <Loading what="what is asked besides" />
        ) : addition.error ? (
          <Failed error={addition.error} retry={() => void addition.refetch()} />
        ) : (
          <Sheet domain={domain} policy={policy} name={name} info={addition.data} />
        )}
      </div>
    </div>
  );
}

const bodyOf = (info: Info): Addition => ({
  password: info.password?.map((one) => one.rule) ?? null,
  phrase: info.phrase?.map((one) => one.rule) ?? null,
  bands: info.bands,
});

/** Nothing at all is no addition. */
const orNone = (addition: Addition) =>
  addition.password || addition.phrase || addition.bands.length > 0 ? addition : null;

const same = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other);

/**
 * Where the rule that is being changed stands by now, whatever was put in or taken out meanwhile;
 * the end of its path for a new one, and for one that is gone.
 */
function placeOf(addition: Addition, { path, was }: Working): number {
  const rules = addition[path] ?? [];
  const at = was ? rules.findIndex((rule) => same(rule, was)) : -1;
  return at < 0 ? rules.length : at;
}

function withRule(addition: Addition, working: Working, rule: Rule): Addition {
  const rules = [...(addition[working.path] ?? [])];
  rules[placeOf(addition, working)] = rule;
  return { ...addition, [working.path]: rules };
}

function withoutRule(addition: Addition, path: PathName, number: number): Addition {
  const rules = (addition[path] ?? []).filter((_, n) => n !== number);
  return { ...addition, [path]: rules.length > 0 ? rules : null };
}

function Sheet({
  domain,
  policy,
  name,
  info,
}: {
  domain: string;
  policy: string;
  name: string;
  info: Info;
}) {
  const set = useSetAddition(domain, policy);
  const lists = useTermLists(domain);
  const [sample, setSample] = useState<Sample | null>(null);
  const [wrong, setWrong] = useState<{ field: string; problem: string } | null>(null);
  const work = workOn(`addition ${policy}`, `A rule of ${name}`, domain, policy);
  const [working, setWorking] = useKept<Working | null>(work, null, untouched);
  const exposure = useExposure(domain, working?.typed.key === "exposed");
  const body = useMemo(() => bodyOf(info), [info]);
  const made = useMemo(() => (working ? ruleOf(working.typed) : null), [working]);
  // The same value as long as nothing in it changes: what is paced is asked about once.
  const asTyped = useMemo(
    () => (working && made && "rule" in made ? withRule(body, working, made.rule) : null),
    [body, working, made],
  );
  const asked = usePaced(useMemo(() => asTyped ?? orNone(body), [asTyped, body]));
  const effects = useEffects(domain, policy, asked, sample);
  const conflict = conflictOf(set.error);
  const fields = set.error instanceof ApiError ? set.error.fields : [];

  // The form stands in the place of its rule; at the end where there is none, or none any more.
  const place = working ? placeOf(body, working) : -1;
  const atEnd = (path: PathName) => working?.path === path && place === (body[path]?.length ?? 0);
  const shown = asTyped ?? body;
  const does = (path: PathName, number: number) => (
    <Does effect={effectOf(effects.data, path, shown[path]?.[number])} of={effects.data} />
  );

  const send = (
    wanted: Addition,
    path: PathName,
    then: (place: string, saved: Info) => void = (place) => settled(domain, policy, place),
  ) => {
    if (set.isPending) return;
    const focus = focusAfterwards();
    void set
      .mutateAsync({ version: info.version, addition: orNone(wanted) })
      .then(({ place, result }) => {
        announce("Saved to the draft.");
        then(place, result);
        focus.on(`add-rule-${path}`);
      }, focus.onRefused);
  };
  const submit = () => {
    if (!working || !made) return;
    if ("problem" in made) return setWrong(made);
    send(withRule(body, working, made.rule), working.path, (to, saved) => {
      settled(domain, policy, to, work, working);
      // Who has typed on changes the rule that is saved now.
      const was = saved[working.path]?.[place]?.rule ?? null;
      changeKept<Working>(to, work.about, (on) =>
        on.begun === working.begun ? { ...on, was } : on,
      );
    });
  };
  // A save under way is of another rule, or of this one before it was typed on.
  const submitWhenFree = useWhenFree(set.isPending, submit);
  const type = (next: Working | null) => {
    setWrong(null);
    // A save that is under way stays so: the next one waits for it.
    if (set.isError && !conflict) set.reset();
    setWorking(next);
  };
  const form = working && (
    <RuleForm
      key={`${working.path} ${JSON.stringify(working.was)}`}
      typed={working.typed}
      wrong={wrong}
      refused={set.error && !conflict ? set.error : null}
      layouts={info.layouts}
      lists={lists.data?.lists.map((list) => list.name) ?? []}
      corpora={exposure.data?.corpora.map((one) => one.name) ?? []}
      fresh={place === (body[working.path]?.length ?? 0)}
      busy={set.isPending}
      onType={(typed) => type({ ...working, typed })}
      onSubmit={submitWhenFree}
      onGiveUp={() => type(null)}
    />
  );

  return (
    <>
      {conflict && (
        <Notice tone="fail" role="alert">
          {conflict.message} It is shown as it is now; make the change again if it still fits.
        </Notice>
      )}
      {!working && set.error && !conflict && (
        <Notice tone="fail" role="alert">
          {fields.length > 0 ? fields.map((f) => f.message).join(" ") : set.error.message}
        </Notice>
      )}
      {effects.data?.problems.map((problem) => (
        <Notice key={problem.field} tone="warn">
          △ As a {problem.field}: {problem.message}
        </Notice>
      ))}
      {PATHS.map((path) => (
        <section key={path.name} aria-label={path.title}>
          <PartHead
            beside={
              <May right="draft" at={domain}>
                <Button
                  id={`add-rule-${path.name}`}
                  size="small"
                  aria-expanded={atEnd(path.name)}
                  onClick={() =>
                    type({
                      path: path.name,
                      was: null,
                      typed: begun(path.name === "phrase" && !info.phrase ? "words" : "length"),
                      begun: Date.now(),
                    })
                  }
                >
                  + Rule
                </Button>
              </May>
            }
          >
            {path.title}
          </PartHead>
          {!info[path.name] && working?.path !== path.name && (
            <p className="py-1 text-soft">{path.empty}</p>
          )}
          <ul>
            {info[path.name]?.map((one, number) =>
              working?.path === path.name && place === number ? (
                <li key={number}>
                  {form}
                  {asTyped && does(path.name, number)}
                </li>
              ) : (
                <li key={number} className="border-b border-line/60 py-1">
                  <div className="flex items-start gap-1">
                    <span className="min-w-0 flex-1 break-words">{sentence(one.said)}</span>
                    <May right="draft" at={domain}>
                      <button
                        type="button"
                        className="h-6 shrink-0 rounded px-1.5 text-xs underline hover:bg-hover"
                        aria-label={`Change: ${one.said}`}
                        onClick={() =>
                          type({
                            path: path.name,
                            was: one.rule,
                            typed: typedOf(one.rule),
                            begun: Date.now(),
                          })
                        }
                      >
                        Change
                      </button>
                      <button
                        type="button"
                        className="h-6 w-6 shrink-0 rounded text-soft hover:bg-failbg hover:text-fail disabled:opacity-40"
                        disabled={set.isPending}
                        aria-label={`Take out: ${one.said}`}
                        title={`Take out: ${one.said}`}
                        onClick={() => send(withoutRule(body, path.name, number), path.name)}
                      >
                        ✕
                      </button>
                    </May>
                  </div>
                  {does(path.name, number)}
                </li>
              ),
            )}
          </ul>
          {atEnd(path.name) && (
            <>
              {working?.was && (
                <p className="text-xs text-warn">
                  △ The rule that was being changed is gone: this one would be added.
                </p>
              )}
              {form}
              {asTyped && does(path.name, place)}
            </>
          )}
        </section>
      ))}
      <Bands
        domain={domain}
        policy={policy}
        bands={info.bands}
        busy={set.isPending}
        onChange={(bands, typed, sent) =>
          send({ ...body, bands }, "password", (to) => settled(domain, policy, to, typed, sent))
        }
      />
      {asked && effects.error && (
        <Failed error={effects.error} retry={() => void effects.refetch()} />
      )}
      <Altogether
        of={asked && !effects.isPlaceholderData ? effects.data : undefined}
        sample={sample?.name ?? ""}
        busy={asked !== null && effects.isFetching}
      />
      {asked && <SampleChoice sample={sample} onChoose={setSample} />}
      <TermLists domain={domain} policy={policy} />
    </>
  );
}

const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** What was said of this very rule, wherever it stood. */
const effectOf = (of: Effects | undefined, path: PathName, rule: Rule | undefined) =>
  of?.rules.find((one) => one.path === path && rule && same(of.of[path]?.[one.number], rule));

const share = (count: number, of: number) =>
  of === 0 ? "none" : `${((100 * count) / of).toFixed(count > 0 && count * 20 < of ? 1 : 0)} %`;

/** What one rule does: how much it refuses, and an invented candidate that it alone refuses. */
function Does({ effect, of }: { effect?: Effect; of?: Schemas["EffectsAnswer"] }) {
  return (
    <p className="min-h-[17px] text-xs break-words text-soft">
      {effect && of && (
        <>
          Refuses {share(effect.refused, of.sample)}
          {effect.refused > 0 &&
            (effect.alone > 0
              ? `, ${share(effect.alone, of.sample)} alone`
              : ", none of them alone")}
          {effect.example === null ? (
            <> · no candidate was found that it alone refuses</>
          ) : (
            <>
              {" "}
              · such as <code className="font-mono text-ink">{effect.example}</code>
              {effect.present !== null && (
                <>
                  {" "}
                  after <code className="font-mono text-ink">{effect.present}</code>
                </>
              )}
              {effect.repair && `: ${effect.repair}`}
            </>
          )}
        </>
      )}
    </p>
  );
}

/** What a path leaves to be guessed; that it shrinks it is told where it does so at all. */
function spaceText({ path, length, natively, left, counted }: Schemas["SpaceInfo"]) {
  const bits = (value: number) => `2${raised(Math.floor(value))}`;
  const about = counted ? "" : "about ";
  return `As a ${path} of ${length} characters ${about}${bits(left)} are left of the ${bits(natively)} that the directory’s rules leave of what a keyboard writes${natively - left >= 0.05 ? `: ${(natively - left).toFixed(1)} bits less` : ""}.`;
}

const RAISED = "⁰¹²³⁴⁵⁶⁷⁸⁹";
const raised = (value: number) => [...String(value)].map((c) => RAISED[Number(c)] ?? c).join("");

function Altogether({
  of,
  sample,
  busy,
}: {
  of?: Schemas["EffectsAnswer"];
  sample: string;
  busy: boolean;
}) {
  if (!of)
    return busy ? (
      <p role="status" className="text-soft">
        Trying passwords as people choose them … A long list of terms takes some seconds the first
        time.
      </p>
    ) : null;
  const whose = sample
    ? `the ${plural(of.sample, "password")} in ${sample}`
    : `${of.sample.toLocaleString("en")} typical passwords, made up`;
  return (
    <p className="text-sm">
      Of {whose}, {share(of.altogether, of.sample)} are refused; the directory’s own rules alone
      refuse {share(of.natively, of.sample)}.{of.space.map((one) => ` ${spaceText(one)}`)}
    </p>
  );
}
