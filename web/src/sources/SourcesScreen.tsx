import { useState } from "react";
import { Link, useParams } from "react-router";
import { useActs, useMe } from "../api/people";
import { useDomains, useEditDomain } from "../api/domains";
import type { Schemas } from "../api/client";
import { at, domainOf } from "../draft/place";
import { Alert, Refusal } from "../kit/Alert";
import { Choices } from "../kit/Choices";
import { Failure, Loading } from "../kit/Loading";
import { ReasonForm } from "../kit/ReasonForm";
import { useTitle } from "../shared/useTitle";
import { awayText, plural } from "../shared/span";
import { useUrlState } from "../shared/useUrlState";
import { SidePanel } from "../kit/SidePanel";
import { GatePanel } from "../gate/GatePanel";
import { GatePart } from "../gate/GatePart";
import { MailingPanel } from "../mailing/MailingPanel";
import { MailingPart } from "../mailing/MailingPart";
import { ReportOrderPanel } from "../reports/ReportOrderPanel";
import { ReportOrderPart } from "../reports/ReportOrderPart";
import { ConnectionPanel } from "./ConnectionPanel";
import { ConnectNew } from "./ConnectNew";
import { DirectoryPart } from "./DirectoryPart";
import { LostPolicies } from "./LostPolicies";
import { LoadPanel } from "./LoadPanel";
import { PolicyFile } from "./PolicyFile";
import { Removal } from "./Removal";
import { Templates } from "./Templates";
import { MayChange } from "../shared/May";

export function SourcesScreen() {
  const { domain = "-" } = useParams();
  const domains = useDomains();
  const rights = useMe().data?.rights ?? [];
  const mayLoad = rights.includes("load");
  const maySet = rights.includes("settings");
  const [connecting, connect] = useUrlState("connect");
  const [gate, open] = useUrlState("gate");
  const [mailing, write] = useUrlState("mailing");
  const [reporting, report] = useUrlState("reporting");
  useTitle("Sources", domain !== "-" && domainOf(domain));
  return (
    <div className="h-full overflow-y-auto px-4 pt-2.5 pb-4 small:px-2">
      <h1 className="text-base">Sources</h1>
      <p className="mb-3 text-soft">
        The directory stays the system of record. Hornfels works on what was last read from it.
      </p>
      <div className="grid max-w-[1060px] items-start grid-cols-[minmax(0,1fr)_380px] gap-5 small:grid-cols-1">
        <section aria-label="Domains">
          <h2 className="mb-1 text-sm">Domains</h2>
          {domains.isPending && <Loading what="your domains" />}
          {domains.error && <Failure error={domains.error} retry={() => void domains.refetch()} />}
          {domains.data?.length === 0 && (
            <Alert>
              {mayLoad
                ? "No domain is here yet. Load a dump of one or connect its directory, and Hornfels shows which policy holds for whom, and why. Nothing is written to the directory."
                : "You may not look at any domain yet. Ask an administrator of Hornfels for a role."}
            </Alert>
          )}
          <ul className="space-y-3">
            {domains.data?.map((d) => (
              <DomainCard key={d.dns_name} info={d} here={d.dns_name === domainOf(domain)} />
            ))}
          </ul>
        </section>
        <div>
          {mayLoad && <LoadPanel first={domains.data?.length === 0} />}
          {maySet && <ConnectNew onChosen={connect} />}
        </div>
      </div>
      <SidePanel about={maySet ? connecting : ""}>
        <ConnectionPanel key={connecting} domain={connecting} onClose={() => connect("")} />
      </SidePanel>
      <SidePanel about={maySet && !connecting && !gate ? mailing : ""}>
        <MailingPanel key={mailing} domain={mailing} onClose={() => write("")} />
      </SidePanel>
      <SidePanel about={maySet && !connecting && !gate && !mailing ? reporting : ""}>
        <ReportOrderPanel key={reporting} domain={reporting} onClose={() => report("")} />
      </SidePanel>
      <SidePanel about={connecting ? "" : gate}>
        <GatePanel key={gate} domain={gate} onClose={() => open("")} />
      </SidePanel>
    </div>
  );
}

function DomainCard({ info, here }: { info: Schemas["DomainInfo"]; here: boolean }) {
  const edit = useEditDomain(info.dns_name);
  const [asked, setAsked] = useState<"required" | "optional" | null>(null);
  const [groups, setGroups] = useState<"global" | "any" | null>(null);
  const waiting = useActs().data?.some((act) => act.sentence.includes(info.dns_name));
  return (
    <li className={`rounded-md border bg-sheet p-3 ${here ? "border-ink" : "border-line"}`}>
      <h3 className="text-[15px]">
        <Link className="hover:underline" to={`/${at(info.dns_name)}/strata`}>
          {info.dns_name}
        </Link>
      </h3>
      <p className="text-soft">
        Read from {info.source}, {awayText(info.loaded_at)} · functional level{" "}
        {info.functional_level ?? "not read"}
      </p>
      <p>
        {plural(info.accounts, "account")} · {plural(info.groups, "group")} ·{" "}
        {info.policies === 1 ? "1 policy" : `${info.policies} policies`}
      </p>
      <MayChange right="settings" at={info.dns_name}>
        <div className="mt-2 flex flex-wrap items-center gap-x-2 gap-y-1">
          <span>Linked groups that count</span>
          <Choices
            label={`Linked groups that count in ${info.dns_name}`}
            value={info.linked_groups}
            onChange={(choice) => setGroups(choice === info.linked_groups ? null : choice)}
            choices={[
              { value: "global", label: "global security" },
              { value: "any", label: "any security" },
            ]}
          />
        </div>
        <p className="mt-1 text-xs text-soft">
          Global is the specification. Some servers also follow links to universal and domain local
          groups.
        </p>
        <div className="mt-2 flex flex-wrap items-center gap-x-2 gap-y-1">
          <span>Before a draft is published</span>
          <Choices
            label={`Before a draft is published in ${info.dns_name}`}
            value={info.approval_required ? "required" : "optional"}
            onChange={(choice) => setAsked(choice)}
            choices={[
              { value: "optional", label: "approval is optional" },
              { value: "required", label: "a second person approves" },
            ]}
          />
        </div>
      </MayChange>
      {groups !== null && (
        <ReasonForm
          act="Change linked groups"
          busy={edit.isPending}
          onAct={(reason) =>
            edit.mutate(
              { linked_groups: groups, version: info.version, reason },
              { onSuccess: () => setGroups(null) },
            )
          }
          onKeep={() => setGroups(null)}
        >
          {groups === "any"
            ? "From then on links to every security group count. The history says how many accounts change policy."
            : "From then on links to global security groups alone count. The history says how many accounts change policy."}
        </ReasonForm>
      )}
      {asked !== null && (
        <ReasonForm
          act="Ask for it"
          busy={edit.isPending}
          onAct={(reason) =>
            edit.mutate(
              { approval_required: asked === "required", version: info.version, reason },
              { onSuccess: () => setAsked(null) },
            )
          }
          onKeep={() => setAsked(null)}
        >
          {asked === "required"
            ? "From then on a second person approves every draft, and confirms whatever would lift that."
            : "From then on drafts are published without approval. A second person has to confirm it."}
        </ReasonForm>
      )}
      {waiting && (
        <p className="mt-1 text-warn">
          △ Something about this domain waits for a second person:{" "}
          <Link className="underline" to={`/${at(info.dns_name)}/people`}>
            see what
          </Link>
          .
        </p>
      )}
      <Refusal error={edit.error} />
      {here && <DirectoryPart domain={info.dns_name} />}
      {here && <LostPolicies domain={info.dns_name} />}
      {here && <GatePart domain={info.dns_name} />}
      {here && info.rights.includes("settings") && (
        <>
          <MailingPart domain={info.dns_name} />
          <ReportOrderPart domain={info.dns_name} />
        </>
      )}
      {here && <Templates domain={info.dns_name} />}
      {here && <PolicyFile domain={info.dns_name} />}
      {info.notices.map((notice) => (
        <p key={notice} className="mt-1 text-warn">
          △ {notice}
        </p>
      ))}
      {info.rights.includes("settings") && <Removal info={info} />}
    </li>
  );
}
