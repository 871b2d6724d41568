import { useParams } from "react-router";
import { useChooseMailing, useMailing, type MailingInfo } from "../api/mailing";
import { at } from "../draft/place";
import { PanelHead } from "../kit/PanelHead";
import { Alert } from "../kit/Alert";
import { Failure, Loading } from "../kit/Loading";
import { useForm } from "../kit/form/useForm";
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

const SHOWN = [
  "days",
  "by_policy",
  "quiet_from",
  "quiet_until",
  "zone",
  "page",
  "confirmed_host",
] as const;

const ENCRYPTED = { tls: "by TLS", starttls: "by StartTLS", none: "not encrypted" } as const;

function Loaded({ domain, info }: { domain: string; info: MailingInfo }) {
  const { domain: place = "-" } = useParams();
  const save = useChooseMailing(domain);
  const form = useForm({
    work: {
      place,
      about: `mailing of ${domain}`,
      label: `Notices by mail in ${domain}`,
      to: `/${at(place)}/sources?mailing=${encodeURIComponent(domain)}`,
    },
    start: typedOf(info.mailing, info.version),
    writes: [save],
    shows: SHOWN,
  });
  const mailing = mailingOf(form.value);
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
      <MailingForm info={info} form={form} save={save} />
      <Planned domain={domain} mailing={mailing} info={info} />
      <Sample domain={domain} mailing={mailing} languages={info.languages} />
      <TestLetter domain={domain} mailing={mailing} />
      <Letters domain={domain} />
      {info.stand_in && <Mailbox domain={domain} />}
    </>
  );
}
