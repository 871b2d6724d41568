// @vitest-environment happy-dom
import { render, screen } from "@testing-library/react";
import { useState } from "react";
import { expect, test } from "vitest";
import { Choices } from "../src/kit/Choices";
import { MomentField } from "../src/kit/MomentField";
import { SecretField } from "../src/kit/SecretField";
import { Tick } from "../src/kit/Tick";
import { user } from "./server";

function Estates({ onChoose }: { onChoose: (value: string) => void }) {
  const [value, setValue] = useState("live");
  const choose = (next: string) => {
    setValue(next);
    onChoose(next);
  };
  const choices = ["live", "draft", "both"].map((one) => ({ value: one, label: one }));
  return <Choices label="Estate" value={value} choices={choices} onChange={choose} />;
}

test("arrows go through choices, round the end, with the focus", async () => {
  const chosen: string[] = [];
  render(<Estates onChoose={(value) => chosen.push(value)} />);
  await user.tab();
  await user.keyboard("{ArrowRight}{ArrowRight}{ArrowRight}{ArrowLeft}");
  expect(chosen).toEqual(["draft", "both", "live", "both"]);
  expect(document.activeElement).toBe(screen.getByRole("radio", { name: "both" }));
  expect(screen.getAllByRole("radio").filter((one) => one.tabIndex === 0)).toHaveLength(1);
});

test("a password is shown and hidden, and says which", async () => {
  render(<SecretField label="Password" value="orbit" onChange={() => undefined} />);
  const field = screen.getByLabelText<HTMLInputElement>("Password");
  expect(field.type).toBe("password");
  await user.click(screen.getByRole("button", { name: "Show: Password" }));
  expect(field.type).toBe("text");
  await user.click(screen.getByRole("button", { name: "Hide: Password" }));
  expect(field.type).toBe("password");
});

test("a moment that cannot be read is said, and the moment before stays", async () => {
  const moments: string[] = [];
  render(
    <MomentField label="Until" dayOnly value="" onChange={(moment) => moments.push(moment)} />,
  );
  const field = screen.getByLabelText<HTMLInputElement>("Until");
  await user.type(field, "soon");
  expect(field.getAttribute("aria-invalid")).toBe("true");
  expect(moments).toEqual([]);
  await user.clear(field);
  await user.type(field, "2 Mar 2026");
  expect(field.getAttribute("aria-invalid")).toBe("false");
  expect(moments.at(-1)).toMatch(/^2026-03-0[12]T/);
});

test("a tick shows what was asked for until the answer, and one click asks once", async () => {
  let answer: (() => void) | undefined;
  const asked: boolean[] = [];
  const ask = (on: boolean) => {
    asked.push(on);
    return new Promise<void>((resolve) => (answer = resolve));
  };
  render(<Tick label="enforced" checked={false} onChange={ask} />);
  const box = screen.getByRole<HTMLInputElement>("checkbox");
  await user.dblClick(box);
  expect(asked).toEqual([true]);
  expect(box.checked).toBe(true);
  answer?.();
});
