// @vitest-environment jsdom
import { act, cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { SIGN_IN } from "../api/client";
import { SessionsPart } from "../shelf/SessionsPart";
import { house, show } from "../testing/house";
import { SignIn } from "./SignIn";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("signing in", () => {
  it("is asked for only where the server wants it, and what was on the page stays", async () => {
    const seen = show(house(), <SignIn>What was typed</SignIn>, { answers: { "/api/session": {} } });
    expect(screen.queryByRole("dialog")).toBeNull();
    act(() => void window.dispatchEvent(new Event(SIGN_IN)));
    await userEvent.type(await screen.findByLabelText("Password"), "a sentence of the tide");
    await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(seen.asked[0]?.body).toEqual({ password: "a sentence of the tide" });
    expect(screen.getByText("What was typed")).toBeTruthy();
  });

  it("says what is wrong and asks again", async () => {
    show(house(), <SignIn>Page</SignIn>, { refuse: "The password is wrong." });
    act(() => void window.dispatchEvent(new Event(SIGN_IN)));
    await userEvent.type(await screen.findByLabelText("Password"), "another sentence");
    await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByText("The password is wrong.")).toBeTruthy();
    expect(screen.getByRole("dialog", { name: "Sign in" })).toBeTruthy();
  });
});

describe("who is signed in", () => {
  const sessions = [
    { id: "s1", made_at: "2027-05-03T10:00:00Z", used_at: "2027-05-03T11:00:00Z", label: "A tablet" },
  ];

  it("is not spoken of where nobody is", async () => {
    const seen = show(house(), <SessionsPart />, {
      answers: { "/api/session": { signed_in: false, sessions: [] } },
    });
    await waitFor(() => expect(seen.asked.length).toBe(1));
    expect(screen.queryByText("Signed in from the network")).toBeNull();
  });

  it("is listed, and each can be ended", async () => {
    const seen = show(house(), <SessionsPart />, {
      answers: { "/api/session": { signed_in: true, sessions }, "/api/sessions/s1": {} },
    });
    expect(await screen.findByText("A tablet")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "End it" }));
    await waitFor(() =>
      expect(seen.asked).toContainEqual({ method: "DELETE", path: "/api/sessions/s1", body: undefined }),
    );
    expect(screen.getByRole("button", { name: "Sign out here" })).toBeTruthy();
  });
});
