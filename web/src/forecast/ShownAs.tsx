import type { RefObject } from "react";
import { Button, ButtonLink } from "../kit/Button";
import { Choices } from "../kit/Choices";
import { saveSvg } from "../kit/plot/saveSvg";
import { useUrlState } from "../shared/useUrlState";

interface Props {
  /** What the drawing's file is called. */
  name: string;
  drawing: RefObject<SVGSVGElement | null>;
  /** Whether there is anything to draw. */
  there: boolean;
  /** Where the numbers are as a file. */
  file: string;
}

/** Whether a forecast is drawn or told in numbers, and both to take away. */
export function ShownAs({ name, drawing, there, file }: Props) {
  const [as, setAs] = useUrlState("as");
  return (
    <span className="ml-auto flex items-center gap-2">
      <Choices
        label="How it is shown"
        value={as === "table" ? "table" : "plot"}
        onChange={(next) => setAs(next === "table" ? next : "")}
        choices={[
          { value: "plot", label: "Plot" },
          { value: "table", label: "Table" },
        ]}
      />
      <Button
        disabled={!there || as === "table"}
        onClick={() => drawing.current && saveSvg(drawing.current, name)}
      >
        Export drawing
      </Button>
      <ButtonLink href={file} download>
        CSV
      </ButtonLink>
    </span>
  );
}
