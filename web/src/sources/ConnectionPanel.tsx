import { useDirectory } from "../api/directories";
import { Refusal } from "../kit/Alert";
import { Loading } from "../kit/Loading";
import { PanelHead } from "../kit/PanelHead";
import { ConnectionForm } from "./ConnectionForm";
import { START, typedOf } from "./connection";

/** How a domain's directory is reached: typed, tried step by step, saved. */
export function ConnectionPanel({ domain, onClose }: { domain: string; onClose: () => void }) {
  const directory = useDirectory(domain);
  const { data } = directory;
  return (
    <div>
      <PanelHead title={domain} detail="How its directory is reached" onClose={onClose} />
      <div className="px-4 pb-4">
        <Refusal error={directory.error} />
        {directory.isPending && <Loading what="the connection" />}
        {data && (
          <ConnectionForm
            domain={domain}
            version={data.version}
            held={data.connection ? typedOf(data.connection) : START}
            onClose={onClose}
          />
        )}
      </div>
    </div>
  );
}
