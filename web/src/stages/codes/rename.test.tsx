// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { device, house, model, show } from "../../testing/house";
import { RenameSheet } from "./RenameSheet";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const devices = [device("screen", "Screen")];
const view = () => house({ profiles: [model("screen", "screen")], devices, versions: { screen: 3 } });

function open(options: Parameters<typeof show>[2] = {}) {
  const closed = vi.fn();
  const seen = show(view(), <RenameSheet open devices={devices} onClose={closed} />, options);
  return { seen, closed };
}

const set = (label: string, value: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value } });
const button = (name: RegExp) => screen.getByText<HTMLButtonElement>(name, { selector: "button" });

describe("functions that are renamed", () => {
  it("one by one: only the names change, the ids stay", async () => {
    const { seen, closed } = open();
    expect(button(/^Rename$/).disabled).toBe(true);
    set("New name of Up", "Open");
    fireEvent.click(button(/^Rename 1$/));
    await waitFor(() => expect(closed).toHaveBeenCalled());
    const [edit] = seen.edits[0] ?? [];
    expect(edit).toMatchObject({ do: "put", base: 3, entity: { entity: "profile" } });
    expect(edit?.entity?.value["functions"]).toMatchObject([
      { id: "Up", name: "Open" },
      { id: "Down", name: "Down" },
      { id: "Stop", name: "Stop" },
    ]);
    expect(seen.said).toEqual(["Saved."]);
  });

  it("by exchanging a part of their names", () => {
    open();
    expect(button(/^Exchange$/).disabled).toBe(true);
    set("Exchange", "o");
    set("for", "0");
    fireEvent.click(button(/^Exchange$/));
    expect(screen.getByLabelText<HTMLInputElement>("New name of Down").value).toBe("D0wn");
    expect(screen.getByLabelText<HTMLInputElement>("New name of Stop").value).toBe("St0p");
    expect(screen.getByLabelText<HTMLInputElement>("New name of Up").value).toBe("Up");
    expect(button(/^Rename 2$/)).toBeDefined();
  });

  it("keep what was typed where the server refuses it", async () => {
    const { closed } = open({ refuse: "“Down” is taken. Choose another name." });
    set("New name of Up", "Down");
    fireEvent.click(button(/^Rename 1$/));
    expect(await screen.findByText("“Down” is taken. Choose another name.")).toBeDefined();
    expect(screen.getByLabelText<HTMLInputElement>("New name of Up").value).toBe("Down");
    expect(closed).not.toHaveBeenCalled();
  });

  it("are none where there is no device", () => {
    show(house(), <RenameSheet open devices={[]} onClose={() => undefined} />);
    expect(screen.queryByText("Rename functions")).toBeNull();
  });
});
