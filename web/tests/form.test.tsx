// @vitest-environment happy-dom
import { useMutation } from "@tanstack/react-query";
import { screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, test } from "vitest";
import { ApiError } from "../src/api/client";
import { Field } from "../src/kit/Field";
import { Form } from "../src/kit/form/Form";
import { useForm } from "../src/kit/form/useForm";
import { TextInput } from "../src/kit/inputs";
import type { Work } from "../src/shared/unsaved";
import { draw, user } from "./server";

interface Sent {
  name: string;
  answer: () => void;
  refuse: (error: Error) => void;
}

let sent: Sent[];
const WORK: Work = { place: "sky.example", about: "name", label: "A name", to: "/" };

beforeEach(() => {
  sent = [];
});

function Named({
  work,
  taken = [],
  left = false,
}: {
  work: Work | null;
  taken?: string[];
  /** The name stays after a save. */
  left?: boolean;
}) {
  const save = useMutation({
    mutationFn: (name: string) =>
      new Promise<string>((resolve, reject) =>
        sent.push({ name, answer: () => resolve(name), refuse: reject }),
      ),
  });
  const form = useForm({
    work,
    start: { name: "" },
    writes: [save],
    shows: ["name"],
    check: ({ name }) => ({ name: taken.includes(name) ? "The name is taken." : "" }),
  });
  return (
    <Form
      of={form}
      label="Named"
      onSubmit={() => {
        if (form.blocked) return;
        form.send(
          () => save.mutateAsync(form.value.name),
          (_, was) => {
            form.saved(was, left ? { name: `${was.name} again` } : undefined);
            return "next";
          },
        );
      }}
    >
      <Field label="Name" problem={form.errorOf("name")}>
        <TextInput aria-invalid={form.errorOf("name") !== undefined} {...form.text("name")} />
      </Field>
      <button type="button" id="next">
        Next
      </button>
      <button type="submit">Save</button>
      <p>{form.refusal?.message}</p>
      <p>{form.conflict && "Somebody else was faster."}</p>
    </Form>
  );
}

const field = () => screen.getByLabelText<HTMLInputElement>("Name");

test("Enter sends what is typed, and the next step takes the focus", async () => {
  draw(<Named work={null} />);
  await user.type(field(), "crew{Enter}");
  expect(sent.map(({ name }) => name)).toEqual(["crew"]);
  sent[0]?.answer();
  await waitFor(() => expect(document.activeElement?.id).toBe("next"));
  expect(field().value).toBe("");
});

test("a double click and a second Enter send once", async () => {
  draw(<Named work={null} />);
  await user.type(field(), "crew");
  await user.dblClick(screen.getByText("Save"));
  await user.type(field(), "{Enter}");
  sent[0]?.answer();
  await waitFor(() => expect(field().value).toBe(""));
  expect(sent).toHaveLength(1);
});

test("Enter on more that was typed during a save sends once more, after the save", async () => {
  draw(<Named work={null} />);
  await user.type(field(), "crew{Enter}");
  await user.type(field(), "s{Enter}");
  expect(sent).toHaveLength(1);
  sent[0]?.answer();
  await waitFor(() => expect(sent.map(({ name }) => name)).toEqual(["crew", "crews"]));
});

test("what is typed on during a save stays, and keeps the focus", async () => {
  draw(<Named work={WORK} />);
  await user.type(field(), "crew{Enter}");
  await user.type(field(), "s");
  sent[0]?.answer();
  await waitFor(() => expect(screen.getByText("Save")).toBeTruthy());
  expect(field().value).toBe("crews");
  expect(document.activeElement).toBe(field());
});

test("a refused field says so, takes the focus and loses the message when typed on", async () => {
  draw(<Named work={null} />);
  await user.type(field(), "crew{Enter}");
  screen.getByText("Next").focus();
  const problem = { field: "body.name", message: "There is such a name already." };
  sent[0]?.refuse(new ApiError(422, problem.message, [problem]));
  expect((await screen.findByRole("alert")).textContent).toContain(problem.message);
  await user.type(field(), "s");
  expect(screen.queryByRole("alert")).toBeNull();
  expect(field().value).toBe("crews");
});

test("a refusal leaves the focus in the other field that somebody types in by then", async () => {
  draw(
    <>
      <Named work={null} />
      <input aria-label="Elsewhere" />
    </>,
  );
  await user.type(field(), "crew{Enter}");
  await user.type(screen.getByLabelText("Elsewhere"), "so");
  const problem = { field: "body.name", message: "There is such a name already." };
  sent[0]?.refuse(new ApiError(422, problem.message, [problem]));
  await screen.findByRole("alert");
  await user.keyboard("on");
  expect(screen.getByLabelText<HTMLInputElement>("Elsewhere").value).toBe("soon");
});

test("a refusal of a field that the form does not show stands apart from the fields", async () => {
  draw(<Named work={null} />);
  await user.type(field(), "crew{Enter}");
  const problems = [
    { field: "body.name", message: "There is such a name already." },
    { field: "body.folders.0", message: "The folder is gone." },
  ];
  sent[0]?.refuse(new ApiError(422, "Both.", problems));
  expect(await screen.findByText("Folders: The folder is gone.")).toBeTruthy();
  expect(screen.getByRole("alert").textContent).toContain("such a name");
});

test("a refusal of the whole stands apart from the fields", async () => {
  draw(<Named work={null} />);
  await user.type(field(), "crew{Enter}");
  sent[0]?.refuse(new ApiError(403, "You may not do that."));
  expect(await screen.findByText("You may not do that.")).toBeTruthy();
  expect(screen.queryByRole("alert")).toBeNull();
});

test("a conflict stays in view while typing goes on", async () => {
  draw(<Named work={null} />);
  await user.type(field(), "crew{Enter}");
  sent[0]?.refuse(new ApiError(409, "Changed.", [], { message: "Changed.", current: {} }));
  expect(await screen.findByText("Somebody else was faster.")).toBeTruthy();
  await user.type(field(), "s");
  expect(screen.getByText("Somebody else was faster.")).toBeTruthy();
});

test("a problem of what is typed is said at once and nothing is sent", async () => {
  draw(<Named work={null} taken={["crew"]} />);
  await user.type(field(), "crew{Enter}");
  expect(screen.getByRole("alert").textContent).toContain("The name is taken.");
  expect(sent).toHaveLength(0);
});

test("typed work outlives leaving the form; a form without a place forgets", async () => {
  const first = draw(<Named work={WORK} />);
  await user.type(field(), "crew");
  first.unmount();
  const second = draw(<Named work={WORK} />);
  expect(field().value).toBe("crew");
  expect(sessionStorage.getItem("unsaved:ann")).toContain("crew");
  second.unmount();
  const third = draw(<Named work={null} />);
  await user.type(field(), "secret");
  third.unmount();
  draw(<Named work={null} />);
  expect(field().value).toBe("");
  expect(sessionStorage.getItem("unsaved:ann")).not.toContain("secret");
});

test.each([null, WORK])(
  "what is left of a saved form stays, unless more was typed",
  async (work) => {
    draw(<Named work={work} left />);
    await user.type(field(), "crew{Enter}");
    sent[0]?.answer();
    await waitFor(() => expect(field().value).toBe("crew again"));
    await user.type(field(), "{Enter}");
    await user.type(field(), "!");
    sent[1]?.answer();
    await waitFor(() => expect(document.activeElement).toBe(field()));
    expect(field().value).toBe("crew again!");
  },
);
