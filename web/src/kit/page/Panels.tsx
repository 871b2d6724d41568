import { Button } from "../Button";
import { Drop } from "../Drop";
import { PanelHead } from "../PanelHead";
import { PartHead } from "../PartHead";
import { ScrolledList } from "../ScrolledList";
import { PolicyTag } from "../Swatch";

/** The heads of panels and of their parts, and what a button opens. */
export function Panels() {
  return (
    <>
      <div className="max-w-[380px] border border-line bg-sheet">
        <PanelHead
          mark={1}
          title="Kiosk floor, a policy with a name that is longer than its panel is wide"
          detail="Precedence 60 · governs 12 of 12"
          onClose={() => undefined}
        />
      </div>
      <PartHead beside={<Button size="small">Open</Button>}>Links</PartHead>
      <ScrolledList
        label="Accounts"
        of={Array.from({ length: 30 }, (_, number) => `kiosk-${number}`)}
      />
      <Drop label="Columns" trigger={<Button>Columns …</Button>}>
        <p>Opened by the button.</p>
      </Drop>
      <p>
        <PolicyTag mark={2} name="Night operators" />
      </p>
    </>
  );
}
