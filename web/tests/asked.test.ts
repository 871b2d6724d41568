// @vitest-environment happy-dom
import { act, cleanup, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { ApiError } from "../src/api/client";
import { useAsked } from "../src/shared/useAsked";

interface Question {
  text: string;
  answer: (answer: string) => void;
  fail: (error: Error) => void;
  dropped: boolean;
}

let asked: Question[];
const ask = (text: string, signal: AbortSignal) =>
  new Promise<string>((answer, fail) => {
    const question: Question = { text, answer, fail, dropped: false };
    signal.addEventListener("abort", () => (question.dropped = true));
    asked.push(question);
  });

beforeEach(() => {
  asked = [];
  vi.useFakeTimers();
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

const draw = (question: string | null) =>
  renderHook(({ question }) => useAsked(question, ask), { initialProps: { question } });
const settle = (what: () => void) =>
  act(async () => {
    what();
    await vi.advanceTimersByTimeAsync(0);
  });

test("an answer belongs to its question: stale until the answer to the present one", async () => {
  const { result, rerender } = draw("short");
  await settle(() => asked[0]?.answer("refused"));
  expect(result.current).toEqual({ answer: "refused", error: null, stale: false });
  rerender({ question: "Perigee-Transit-31" });
  expect(result.current.stale).toBe(true);
  await settle(() => asked[1]?.answer("accepted"));
  expect(result.current).toEqual({ answer: "accepted", error: null, stale: false });
});

test("an answer that a newer question has overtaken is dropped", async () => {
  const { result, rerender } = draw("a");
  rerender({ question: "ab" });
  expect(asked[0]?.dropped).toBe(true);
  await settle(() => asked[1]?.answer("of ab"));
  await settle(() => asked[0]?.fail(new DOMException("", "AbortError")));
  expect(result.current).toEqual({ answer: "of ab", error: null, stale: false });
});

test("nothing asked is nothing answered", async () => {
  const { result, rerender } = draw("a");
  await settle(() => asked[0]?.answer("of a"));
  rerender({ question: null });
  expect(result.current).toEqual({ answer: null, error: null, stale: false });
});

test("the question is asked again by itself after an outage, and not after a refusal", async () => {
  const { result } = draw("a");
  for (const wait of [1_000, 2_000, 4_000, 4_000]) {
    await settle(() => asked.at(-1)?.fail(new ApiError(0, "Hornfels does not answer.")));
    expect(result.current.error?.message).toBe("Hornfels does not answer.");
    const before = asked.length;
    await act(() => vi.advanceTimersByTimeAsync(wait - 1));
    expect(asked).toHaveLength(before);
    await act(() => vi.advanceTimersByTimeAsync(1));
    expect(asked).toHaveLength(before + 1);
  }
  await settle(() => asked.at(-1)?.answer("of a"));
  expect(result.current).toEqual({ answer: "of a", error: null, stale: false });
  const { result: other } = draw("b");
  await settle(() => asked.at(-1)?.fail(new ApiError(422, "No such account.")));
  const before = asked.length;
  await act(() => vi.advanceTimersByTimeAsync(60_000));
  expect(asked).toHaveLength(before);
  expect(other.current.error?.message).toBe("No such account.");
});
