import { useParams } from "react-router";
import { useMailing, type MailingInfo } from "../api/mailing";
import { at } from "../draft/place";
import { PanelHead } from "../kit/PanelHead";
import { Alert } from "../kit/Alert";
import { Failure, Loading } from "../kit/Loading";
import { useKept } from "../shared/kept";
import { Letters } from "./Letters";
import { Mailbox } from "./Mailbox";
import { MailingForm } from "./MailingForm";
import { Planned } from "./Planned";
import { Sample } from "./Sample";
import { TestLetter } from "./TestLetter";
import { mailingOf, typedOf } from "./typed";

/** What the people of a domain are written about, and what became of it. */
export function MailingPanel({ domain, onClose }: { domain: string; onClose: () => void }) {
  const mailing = useMailing(domain);
  return (
    <div>
      <PanelHead title="Notices by mail" detail={domain} onClose={onClose} />
      <div className="space-y-4 px-4 pb-4">
        {mailing.data ? (
          <Loaded domain={domain} info={mailing.data} />
        ) : mailing.error ? (
          <Failure error={mailing.error} retry={() => void mailing.refetch()} />
        ) : (
          <Loading what="what people are written" />
        )}
      </div>
    </div>
  );
}

const ENCRYPTED = { tls: "by TLS", starttls: "by StartTLS", none: "not encrypted" } as const;

function Loaded({ domain, info }: { domain: string; info: MailingInfo }) {
  const { domain: place = "-" } = useParams();
  const held = typedOf(info.mailing, info.version);
  const [typed, setTyped, forget] = useKept(
    {
      place,
      about: `mailing of ${domain}`,
      label: `Notices by mail in ${domain}`,
      to: `/${at(place)}/sources?mailing=${encodeURIComponent(domain)}`,
    },
    held,
    (value) => JSON.stringify(value) === JSON.stringify(held),
  );
  const mailing = mailingOf(typed);
  return (
    <>
      {info.trouble ? (
        <Alert tone="warn">△ {info.trouble}</Alert>
      ) : (
        <p className="text-xs break-words text-soft">
          Letters go through {info.server}, {ENCRYPTED[info.security]}, from {info.sender}.
          {info.stand_in && " It is a stand-in: it keeps them below and sends none on."}
        </p>
      )}
      <MailingForm
        domain={domain}
        info={info}
        typed={typed}
        onType={setTyped}
        onSaved={forget}
        changed={JSON.stringify(typed) !== JSON.stringify(held)}
      />
      <Planned domain={domain} mailing={mailing} info={info} />
      <Sample domain={domain} mailing={mailing} languages={info.languages} />
      <TestLetter domain={domain} mailing={mailing} />
      <Letters domain={domain} />
      {info.stand_in && <Mailbox domain={domain} />}
    </>
  );
}
