import { useCallback, useState } from "react";
import type { Schemas } from "../api/client";
import { useEditPolicy, useWhatIf } from "../api/policies";

export interface Weighing {
  guid: string;
  place?: number;
  precedence?: number;
}

/** A new precedence under consideration: shown in the section first, taken or given up after. */
export function useWeighing(domain: string, layers: Schemas["Layer"][]) {
  const [weighing, setWeighing] = useState<Weighing | null>(null);
  const what = useWhatIf(domain, weighing);
  const layer = layers.find((l) => l.guid === weighing?.guid);
  const edit = useEditPolicy(domain, weighing?.guid ?? "");
  const giveUp = useCallback(() => setWeighing(null), []);
  const answer = weighing ? what.data : undefined;

  const take = () => {
    if (!weighing || !layer || what.isPlaceholderData || answer?.precedence == null) return;
    edit.mutate(
      { version: layer.version, precedence: answer.precedence, settings: {} },
      { onSuccess: giveUp },
    );
  };
  /** One place up or down from where it stands now, or from the place already weighed. */
  const step = (guid: string, by: number) => {
    const stands = layers.findIndex((l) => l.guid === guid);
    const from = weighing?.guid === guid && weighing.place !== undefined ? weighing.place : stands;
    const place = Math.min(layers.length - 1, Math.max(0, from + by));
    edit.reset();
    setWeighing({ guid, place });
  };
  return {
    weighing,
    setWeighing,
    answer,
    error: edit.error ?? what.error,
    busy: edit.isPending || what.isPlaceholderData,
    take,
    giveUp,
    step,
  };
}

export type WeighingState = ReturnType<typeof useWeighing>;
