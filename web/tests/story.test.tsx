// @vitest-environment happy-dom
import { scaleLinear } from "d3-scale";
import { screen } from "@testing-library/react";
import { useState } from "react";
import { expect, test } from "vitest";
import { moved, without, type EventAt } from "../src/bench/drill/story";
import { TimeLine } from "../src/bench/drill/TimeLine";
import { useStory } from "../src/bench/drill/useStory";
import { draw, user } from "./server";

const VIEW = { start: 0, end: 3_600 };
const bad = (at: number): EventAt => ({ at, event: "bad" });

function Story({ start }: { start: EventAt[] }) {
  const [told, tell, back] = useStory("sky.example");
  const [selected, select] = useState<number[]>([]);
  const events = told.how === "placed" ? told.events : start;
  const place = (next: EventAt[]) => tell({ ...told, how: "placed", events: next });
  return (
    <>
      <TimeLine
        events={events}
        x={scaleLinear([0, 3_600], [80, 1_280])}
        view={VIEW}
        selected={selected}
        onSelect={select}
        onMove={(which, by) => place(moved(events, which, by))}
        onGrab={() => undefined}
        onRemove={(which) => place(without(events, which))}
        onAdd={(event, at) => place([...events, { at, event }])}
      />
      <button onClick={() => place([])}>Clear</button>
      {back && <button onClick={back}>Take back</button>}
    </>
  );
}

const shown = () =>
  [...screen.getByRole("group", { name: "Time line" }).querySelectorAll("button")].map((one) =>
    one.getAttribute("aria-label"),
  );

test("events are moved and taken out by the keyboard, and the focus goes from one to the next", async () => {
  draw(<Story start={[bad(0), bad(600), bad(1_200)]} />);
  screen.getByLabelText("Bad try at 20 min").focus();
  await user.keyboard("{ArrowRight}");
  expect(shown()).not.toContain("Bad try at 20 min");
  await user.keyboard("{ArrowLeft}");
  expect(shown()).toEqual(["Bad try at 0", "Bad try at 10 min", "Bad try at 20 min"]);
  await user.keyboard("{Home}");
  expect(document.activeElement?.getAttribute("aria-label")).toBe("Bad try at 0");
  await user.keyboard("{ArrowDown}{Delete}");
  expect(shown()).toEqual(["Bad try at 0", "Bad try at 20 min"]);
  await user.keyboard("{End}");
  expect(document.activeElement?.getAttribute("aria-label")).toBe("Bad try at 20 min");
});

test("events too close to be told apart are one, and move as one", async () => {
  draw(<Story start={[bad(0), bad(10), bad(20), bad(1_800)]} />);
  expect(shown()).toEqual(["Bad try 3 times, from 0 to 20 s", "Bad try at 30 min"]);
  screen.getByLabelText(/^Bad try 3 times/).focus();
  await user.keyboard("{Shift>}{ArrowRight}{/Shift}");
  expect(shown()[0]).toMatch(/^Bad try 3 times, from \d+ min to/);
});

test("a change of a story is taken back, and the story outlives leaving", async () => {
  const { unmount } = draw(<Story start={[]} />);
  for (const lane of screen.getAllByTitle(/^Click to add/).slice(0, 2)) await user.click(lane);
  expect(shown()).toHaveLength(2);
  await user.click(screen.getByText("Clear"));
  expect(shown()).toEqual([]);
  await user.click(screen.getByText("Take back"));
  expect(shown()).toHaveLength(2);
  unmount();
  draw(<Story start={[]} />);
  expect(shown()).toHaveLength(2);
  expect(screen.queryByText("Take back")).toBeNull();
});
