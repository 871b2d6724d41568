import { useParams } from "react-router";
import { useOrderReport, useReportOrder, type ReportOrderInfo } from "../api/reportOrder";
import { at } from "../draft/place";
import { PanelHead } from "../kit/PanelHead";
import { Alert } from "../kit/Alert";
import { Failure, Loading } from "../kit/Loading";
import { useForm } from "../kit/form/useForm";
import { Copies } from "./Copies";
import { ReportOrderForm } from "./ReportOrderForm";
import { typedOf } from "./typed";

/** When a domain's report comes by itself, to whom, and what became of the last one. */
export function ReportOrderPanel({ domain, onClose }: { domain: string; onClose: () => void }) {
  const order = useReportOrder(domain);
  return (
    <div>
      <PanelHead title="Report by mail" detail={domain} onClose={onClose} />
      <div className="space-y-4 px-4 pb-4">
        {order.data ? (
          <Loaded domain={domain} info={order.data} />
        ) : order.error ? (
          <Failure error={order.error} retry={() => void order.refetch()} />
        ) : (
          <Loading what="what is ordered" />
        )}
      </div>
    </div>
  );
}

function Loaded({ domain, info }: { domain: string; info: ReportOrderInfo }) {
  const { domain: place = "-" } = useParams();
  const save = useOrderReport(domain);
  const form = useForm({
    work: {
      place,
      about: `report order of ${domain}`,
      label: `Report by mail of ${domain}`,
      to: `/${at(place)}/sources?reporting=${encodeURIComponent(domain)}`,
    },
    start: typedOf(info.order, info.version),
    writes: [save],
    shows: ["to", "day", "at", "zone", "baselines"],
  });
  return (
    <>
      {info.trouble ? (
        <Alert tone="warn">△ {info.trouble}</Alert>
      ) : (
        <p className="text-soft">
          One page that stands alone comes as an attachment: policies, who is under which and why,
          findings, exposure, what is to come, notices and changes. It names groups and accounts:
          send it only to people who may know them.
        </p>
      )}
      <ReportOrderForm info={info} form={form} save={save} />
      {info.version > 0 && <Copies domain={domain} info={info} />}
    </>
  );
}
