import type { ReactNode } from "react";
import { useMay } from "../api/domains";
import type { Right } from "../api/people";

interface Props {
  right: Right;
  at: string;
  children: ReactNode;
}

/** What only those may see who may do it there. */
export function May({ right, at, children }: Props) {
  return useMay(at)(right) ? children : null;
}

/** Fields that only those may change who may do it there; the others read them. */
export function MayChange({ right, at, children }: Props) {
  return (
    <fieldset disabled={!useMay(at)(right)} className="contents">
      {children}
    </fieldset>
  );
}
