import { Button } from "./Button";
import { Swatch } from "./Swatch";

export function PanelHead({
  mark,
  title,
  detail,
  onClose,
}: {
  mark?: number | null;
  title: string;
  detail: string;
  onClose: () => void;
}) {
  return (
    <div className="flex items-start gap-3 px-4 pt-3 pb-2.5">
      {mark !== undefined && <Swatch mark={mark} size={34} />}
      <div className="min-w-0 flex-1">
        <h2 className="truncate text-[16px] leading-5" title={title}>
          {title}
        </h2>
        <p className="truncate text-soft" title={detail}>
          {detail}
        </p>
      </div>
      <Button tone="quiet" onClick={onClose} aria-label="Close panel">
        ✕
      </Button>
    </div>
  );
}
