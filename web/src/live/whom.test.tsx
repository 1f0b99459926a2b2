// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { house } from "../testing/house";
import { PaperFoot, PaperHead } from "../shell/Paper";
import { Whom } from "./Whom";

afterEach(cleanup);

describe("whom to call", () => {
  it("is the programmer of the house, by a number that a telephone dials", () => {
    const { container } = render(<Whom programmer={{ name: "Wren Aldous", phone: "+00 555 010-7" }} />);
    expect(container.textContent).toBe("Call Wren Aldous, +00 555 010-7.");
    expect(screen.getByRole("link").getAttribute("href")).toBe("tel:+005550107");
  });

  it("is the programmer by number alone, or by name alone", () => {
    const { container, rerender } = render(<Whom programmer={{ name: "", phone: "0555" }} />);
    expect(container.textContent).toBe("Call whoever set up the room: 0555.");
    rerender(<Whom programmer={{ name: "Wren Aldous", phone: "" }} />);
    expect(container.textContent).toBe("Call Wren Aldous.");
  });

  it("is nobody where the house does not say", () => {
    const { container } = render(<Whom programmer={{ name: "", phone: "" }} />);
    expect(container.textContent).toBe("");
  });

  it("follows a head with house, room, stage, day and revision", () => {
    const { container } = render(<PaperHead house={house()} room="loft" stage="codes" />);
    const day = new Date().toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" });
    expect(container.textContent).toBe(`House · Loft · Codes${day}, revision 1`);
  });

  it("stands at the foot of a paper", () => {
    const own = { id: "h", name: "House", programmer: { name: "Wren Aldous", phone: "0555" } };
    const view = house({ house: own as never });
    const { container, rerender } = render(<PaperFoot house={view} />);
    expect(container.textContent).toBe("House. Questions: Wren Aldous, 0555");
    rerender(<PaperFoot house={house()} />);
    expect(container.textContent).toBe("House");
  });
});
