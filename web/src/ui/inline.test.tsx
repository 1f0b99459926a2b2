// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { LengthField } from "../stages/kit/plan/LengthField";
import { WholeField } from "../stages/kit/plan/Lines";
import { Busy } from "./Busy";
import { Field, Figure, Pick } from "./Inline";

afterEach(cleanup);

describe("a choice in a line", () => {
  const options = [
    ["a", "First"],
    ["b", "Second"],
  ] as const;

  it("shows what is chosen, and asks where that is gone", () => {
    const change = vi.fn();
    const { rerender } = render(<Pick label="Which" value="b" options={options} onChange={change} />);
    expect(screen.getByLabelText("Which")).toHaveProperty("value", "b");
    rerender(<Pick label="Which" value="gone" blank="choose one" options={options} onChange={change} />);
    expect(screen.getByLabelText("Which")).toHaveProperty("value", "");
    expect(screen.getByRole("option", { name: "choose one" })).toBeTruthy();
  });
});

describe("a figure with its unit", () => {
  it("is whole where only whole ones count", () => {
    const change = vi.fn();
    const { rerender } = render(<Figure label="Width" unit="mm" value={48} onChange={change} />);
    fireEvent.change(screen.getByLabelText(/^Width/), { target: { value: "52.6" } });
    expect(change).toHaveBeenLastCalledWith(53);
    rerender(<Figure label="Width" unit="mm" value={48} whole={false} onChange={change} />);
    fireEvent.change(screen.getByLabelText(/^Width/), { target: { value: "52.6" } });
    expect(change).toHaveBeenLastCalledWith(52.6);
  });
});

describe("a field that is saved when one leaves it", () => {
  it("saves what is another one, by Enter or by leaving, and nothing else", async () => {
    const save = vi.fn();
    render(<Field label="Name" value="Hall" className="" onSave={save} />);
    const field = screen.getByLabelText("Name");
    await userEvent.click(field);
    await userEvent.tab();
    expect(save).not.toHaveBeenCalled();
    await userEvent.type(field, " 2{Enter}");
    expect(save).toHaveBeenCalledWith("Hall 2");
  });
});

describe("a length", () => {
  function Own({ feet = false, kept }: { feet?: boolean; kept: (mm: number) => void }) {
    const [mm, setMm] = useState(2_400);
    return (
      <LengthField
        label="Height"
        feet={feet}
        mm={mm}
        onMm={(next) => {
          setMm(next);
          kept(next);
        }}
      />
    );
  }
  const type = async (text: string) => {
    const field = screen.getByLabelText(/^Height/);
    await userEvent.clear(field);
    await userEvent.type(field, text);
  };

  it("is typed in metres, centimetres, or feet and inches", async () => {
    const kept = vi.fn();
    render(<Own kept={kept} />);
    expect(screen.getByLabelText("Height")).toHaveProperty("value", "2.40 m");
    await type("85 cm{Enter}");
    expect(kept).toHaveBeenLastCalledWith(850);
    cleanup();
    render(<Own feet kept={kept} />);
    await type("7 ft 10 in{Enter}");
    expect(kept).toHaveBeenLastCalledWith(2_388);
  });

  it("that is none is said, and what was typed stays until Escape", async () => {
    const kept = vi.fn();
    render(<Own kept={kept} />);
    await type("high");
    await userEvent.tab();
    expect(screen.getByRole("alert").textContent).toContain("That is no length");
    expect(screen.getByLabelText(/^Height/)).toHaveProperty("value", "high");
    expect(kept).not.toHaveBeenCalled();
    await userEvent.type(screen.getByLabelText(/^Height/), "{Escape}");
    expect(screen.getByLabelText("Height")).toHaveProperty("value", "2.40 m");
  });
});

describe("a whole number that is typed", () => {
  it("is taken within its range alone", async () => {
    const value = vi.fn();
    render(<WholeField label="Light, lm" value={800} most={2_000} onValue={value} />);
    const field = screen.getByLabelText(/^Light/);
    await userEvent.clear(field);
    await userEvent.type(field, "2001{Enter}");
    expect(screen.getByRole("alert").textContent).toBe("A whole number from 0 to 2000.");
    expect(value).not.toHaveBeenCalled();
    await userEvent.clear(field);
    await userEvent.type(field, "1200{Enter}");
    expect(value).toHaveBeenCalledWith(1_200);
  });
});

describe("something that takes a moment", () => {
  it("says what it is, and can be cancelled", async () => {
    const cancel = vi.fn();
    render(<Busy what="Reading the codes …" onCancel={cancel} />);
    expect(screen.getByRole("progressbar", { name: "Reading the codes …" })).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Cancel" }));
    expect(cancel).toHaveBeenCalled();
  });
});
