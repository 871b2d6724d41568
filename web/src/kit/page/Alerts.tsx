import { Alert, Refusal } from "../Alert";
import { EmptyState } from "../EmptyState";
import { Failure, Loading } from "../Loading";
import { WaitsForSecond } from "../WaitsForSecond";

/** What is said where something is refused, missing, on its way or waiting. */
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
