import { useMemo, useState } from "react";
import { type Addition, type PathName } from "../api/additions";
import { useAddition, useEffects, useSetAddition, useTermLists } from "../api/additions";
import { type Schemas } from "../api/client";
import { useExposure } from "../api/exposure";
import { useEnforced } from "../api/gate";
import { ENFORCED } from "../gate/kinds";
import { PanelHead } from "../kit/PanelHead";
import { announce } from "../shared/announce";
import { Alert, Refusal } from "../kit/Alert";
import { useForm } from "../kit/form/useForm";
import { Failure, Loading } from "../kit/Loading";
import { changeKept } from "../shared/kept";
import { usePaced } from "../shared/usePaced";
import { Bands } from "./Bands";
import { bodyOf, orNone, placeOf, withoutRule, withRule, type Working } from "./editing";
import { Altogether } from "./Effects";
import { ruleOf } from "./kinds";
import { PathSection } from "./PathSection";
import { RuleForm } from "./RuleForm";
import { SampleChoice, type Sample } from "./SampleChoice";
import { TermLists } from "./TermLists";
import { settled, workOn } from "./work";

type Info = Schemas["AdditionInfo"];

const PATHS: PathName[] = ["password", "phrase"];

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
          <Failure error={addition.error} retry={() => void addition.refetch()} />
        ) : (
          <Sheet domain={domain} policy={policy} name={name} info={addition.data} />
        )}
      </div>
    </div>
  );
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
  const state = useForm<Working | null>({ work, start: null, isBlank: untouched, writes: [set] });
  const working = state.value;
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
  const { conflict } = state;
  // The form stands in the place of its rule; at the end where there is none, or none any more.
  const place = working ? placeOf(body, working) : -1;

  const send = (
    wanted: Addition,
    path: PathName,
    then: (place: string, saved: Info) => void = (place) => settled(domain, policy, place),
  ) => {
    if (set.isPending) return;
    state.send(
      () => set.mutateAsync({ version: info.version, addition: orNone(wanted) }),
      ({ place, result }) => {
        announce("Saved to the draft.");
        then(place, result);
        return `add-rule-${path}`;
      },
    );
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
  const type = (next: Working | null) => {
    setWrong(null);
    state.set(next);
  };
  const form = working && (
    <RuleForm
      key={`${working.path} ${JSON.stringify(working.was)}`}
      of={{ value: working.typed, busy: set.isPending }}
      wrong={wrong}
      refused={conflict ? null : set.error}
      layouts={info.layouts}
      lists={lists.data?.lists.map((list) => list.name) ?? []}
      corpora={exposure.data?.corpora.map((one) => one.name) ?? []}
      fresh={place === (body[working.path]?.length ?? 0)}
      onType={(typed) => type({ ...working, typed })}
      onSubmit={submit}
      onGiveUp={() => type(null)}
    />
  );

  return (
    <>
      {conflict && (
        <Alert tone="fail" role="alert">
          {conflict.message} It is shown as it is now; make the change again if it still fits.
        </Alert>
      )}
      {!working && !conflict && <Refusal error={set.error} />}
      {effects.data?.problems.map((problem) => (
        <Alert key={problem.field} tone="warn">
          △ As a {problem.field}: {problem.message}
        </Alert>
      ))}
      {PATHS.map((path) => (
        <PathSection
          key={path}
          domain={domain}
          path={path}
          rules={info[path]}
          typed={asTyped ?? body}
          working={working?.path === path ? working : null}
          place={place}
          form={form}
          effects={effects.data}
          busy={set.isPending}
          onWork={type}
          onTakeOut={(number) => send(withoutRule(body, path, number), path)}
        />
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
        <Failure error={effects.error} retry={() => void effects.refetch()} />
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
