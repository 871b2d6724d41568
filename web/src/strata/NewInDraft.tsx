import type { ComponentProps } from "react";
import { useStrata } from "../api/domains";
import { useJoined } from "../draft/useJoined";
import { NewPolicy } from "../editor/NewPolicy";
import { Loading } from "../kit/Loading";

/** A new policy among those of the draft that it joins, whose precedences may be taken. */
export function NewInDraft(props: ComponentProps<typeof NewPolicy>) {
  const { domain, layers } = props;
  const place = useJoined(domain);
  const elsewhere = place !== undefined && place !== domain;
  const joined = useStrata(place ?? domain, "", elsewhere);
  const there = joined.isPlaceholderData ? undefined : joined.data?.layers;
  const among = place === domain || joined.error ? layers : elsewhere ? there : undefined;
  return among ? <NewPolicy {...props} layers={among} /> : <Loading what="the draft" />;
}
