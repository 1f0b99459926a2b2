// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { device, house, model, show } from "../../testing/house";
import { ImportSheet } from "./ImportSheet";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const line = (at: number, name: string, fate: string, part: object = {}) => ({
  line: at,
  device: "amp",
  named: null,
  name,
  function: null,
  summary: `nec address=1 command=${at}`,
  decoded: true,
  fate,
  ...part,
});

const preview = (part: object = {}) => ({
  format: "keymap",
  lines: [line(5, "OK", "new-code"), line(6, "OK 2", "new-function"), line(7, "Disc", "same")],
  unread: [{ line: 9, why: "“0xzz” is no scancode: it is a number such as 0x0408." }],
  remarks: ["“OK” stands twice with different codes: the second is kept as “OK 2”."],
  ...part,
});

function sheet(answer: object = preview(), refuse?: string) {
  const onClose = vi.fn();
  const view = house({ profiles: [model("receiver", "amp")], devices: [device("amp", "Amp")] });
  const seen = show(view, <ImportSheet devices={view.devices} first="amp" onClose={onClose} />, {
    answers: { "/imports/preview": answer, "/api/houses": [{ id: "h", name: "House" }] },
    refuse,
  });
  return { seen, onClose };
}

/** Pastes a text in place of a file. */
function paste(text = "[[protocols]]") {
  fireEvent.change(screen.getByLabelText(/A remote keymap/), { target: { value: text } });
}

describe("an import", () => {
  it("is shown code by code before anything happens", async () => {
    const { seen } = sheet();
    paste();
    expect(await screen.findByText("OK 2")).toBeTruthy();
    expect(seen.edits).toEqual([]);
    expect(seen.asked.every((one) => !one.path.endsWith("/imports"))).toBe(true);
  });

  it("says what was done about names that stand more than once", async () => {
    sheet();
    paste();
    const list = await screen.findByRole("list", { name: "Names that stand more than once" });
    expect(list.textContent).toBe("“OK” stands twice with different codes: the second is kept as “OK 2”.");
  });

  it("says nothing of repeats where there are none", async () => {
    sheet(preview({ remarks: [] }));
    paste();
    expect(await screen.findByText("OK 2")).toBeTruthy();
    expect(screen.queryByRole("list", { name: "Names that stand more than once" })).toBeNull();
  });

  it("lists the lines that cannot be read, and keeps the rest", async () => {
    sheet();
    paste();
    expect(await screen.findByText(/One line could not be read; the\s+rest is kept\./)).toBeTruthy();
    expect(screen.getByText(/Line 9: “0xzz” is no scancode/)).toBeTruthy();
  });

  it("takes what changes something, and leaves out what a hand has unticked", async () => {
    const { seen } = sheet();
    paste();
    const boxes = await screen.findAllByRole<HTMLInputElement>("checkbox");
    expect(boxes.filter((box) => box.checked)).toHaveLength(2);
    fireEvent.click(boxes.find((box) => box.checked) as HTMLInputElement);
    fireEvent.click(screen.getByRole("button", { name: "Take 1 over" }));
    await waitFor(() => {
      const sent = seen.asked.find((one) => one.path === "/api/houses/h/imports");
      expect(sent?.body).toMatchObject({ device: "amp", chosen: [1], as_set: null });
    });
  });

  it("that is refused says why, and loses nothing", async () => {
    const { onClose } = sheet({}, "This is neither a remote keymap nor a CSV.");
    paste("hello");
    expect(await screen.findByText("This is neither a remote keymap nor a CSV.")).toBeTruthy();
    expect(screen.getByLabelText<HTMLTextAreaElement>(/A remote keymap/).value).toBe("hello");
    expect(onClose).not.toHaveBeenCalled();
  });
});
