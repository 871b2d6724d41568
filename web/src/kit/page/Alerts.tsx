import { Alert, Refusal } from "../Alert";
import { EmptyState } from "../EmptyState";
import { Failure, Loading } from "../Loading";
import { WaitsForSecond } from "../WaitsForSecond";

/** Alerts, refusals, and the states of an answer: on its way, failed, empty, waiting. */
export function Alerts() {
  return (
    <>
      <Alert>Nothing is written to the directory.</Alert>
      <Alert tone="warn">△ Tie at 10 with Kiosk floor.</Alert>
      <Alert tone="fail">✕ The server is away.</Alert>
      <Refusal error="The name is taken." also="Choose another name." />
      <WaitsForSecond on />
      <Loading what="the policy" />
      <Failure error={new Error("The server did not answer.")} retry={() => undefined} />
      <EmptyState>No draft is open. An edit of a policy opens one.</EmptyState>
    </>
  );
}
