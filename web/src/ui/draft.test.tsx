// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it } from "vitest";
import { draftOf, forget, keepDraft, useIsTyped, useTyped } from "./draft";

beforeEach(() => localStorage.clear());
afterEach(cleanup);

const SAVED = { text: "saved" };

function Form({ name }: { name: string }) {
  const [typed, setTyped] = useTyped(name, SAVED);
  const has = useIsTyped(name);
  return (
    <>
      <input
        aria-label="Text"
        value={typed.text}
        onChange={(event) => setTyped({ text: event.target.value })}
      />
      <button onClick={() => setTyped(SAVED)}>Discard</button>
      <output>{has ? "draft" : "clean"}</output>
    </>
  );
}

const field = () => screen.getByLabelText<HTMLInputElement>("Text");
const type = (value: string) => fireEvent.change(field(), { target: { value } });

it("what is typed is there again after the form was closed, and marked", () => {
  const { unmount } = render(<Form name="a" />);
  type("typed");
  expect(screen.getByText("draft")).toBeDefined();
  unmount();
  render(<Form name="a" />);
  expect(field().value).toBe("typed");
});

it("what is typed belongs to one thing, and another one has none of it", () => {
  const { unmount } = render(<Form name="a" />);
  type("typed");
  unmount();
  render(<Form name="b" />);
  expect(field().value).toBe("saved");
  expect(draftOf("a")).toEqual({ text: "typed" });
});

it("is forgotten when it is thrown away, and when it is as saved again", () => {
  render(<Form name="a" />);
  type("typed");
  type("saved");
  expect(draftOf("a")).toBeUndefined();
  type("again");
  fireEvent.click(screen.getByText("Discard"));
  expect(field().value).toBe("saved");
  expect(draftOf("a")).toBeUndefined();
  expect(screen.getByText("clean")).toBeDefined();
});

it("half a draft in the store is none", () => {
  keepDraft("a", { text: "x" });
  localStorage.setItem("kestrel-draft:a", "{half");
  render(<Form name="a" />);
  expect(field().value).toBe("saved");
});

function Fields({ of }: { of: string }) {
  const [name, setName] = useTyped(`${of}:name`, "Film");
  const [ids, setIds] = useTyped<string[]>(`${of}:ids`, []);
  return (
    <>
      <input aria-label="Text" value={name} onChange={(event) => setName(event.target.value)} />
      <button onClick={() => setIds([...ids, "x"])}>{ids.length} ids</button>
      <output>{useIsTyped(of) ? "typed" : "clean"}</output>
    </>
  );
}

it("fields keep their texts under names of their own, and one call forgets them all", () => {
  const { rerender, unmount } = render(<Fields of="activity:a" />);
  type("Films");
  fireEvent.click(screen.getByText("0 ids"));
  rerender(<Fields of="activity:b" />);
  expect(field().value).toBe("Film");
  expect(screen.getByText("clean")).toBeDefined();
  rerender(<Fields of="activity:a" />);
  expect(field().value).toBe("Films");
  expect(screen.getByText("1 ids")).toBeDefined();
  unmount();
  forget("activity:a");
  render(<Fields of="activity:a" />);
  expect(field().value).toBe("Film");
});
