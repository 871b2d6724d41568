import { useMe } from "../api/people";

/** Tells whatever keeps passwords whose the ones of a form are. */
export function WhoseForm() {
  const me = useMe().data?.name ?? "";
  return <input type="text" autoComplete="username" value={me} readOnly hidden />;
}
