// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { device, house, model, show } from "../../testing/house";
import { Machine } from "./Machine";
import { ModelsView } from "./ModelsView";
import { RemoteSheet } from "./RemoteSheet";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

async function choose(label: string, option: string) {
  await userEvent.click(screen.getByRole("combobox", { name: label }));
  await userEvent.click(await screen.findByRole("option", { name: option }));
}

describe("the machine of a device", () => {
  const found = {
    states: ["off", "on, HDMI 1", "on, HDMI 2"],
    keys: [
      { function: "power", name: "Power", part: "power" },
      { function: "source", name: "Source", part: "inputs" },
    ],
    steps: [
      {
        name: "Power",
        reactions: ["it goes on", "it goes off"],
        states: ["off", "on, HDMI 1", "on, HDMI 2"],
      },
    ],
    ends: ["on, HDMI 1"],
    settles_ms: 8_000,
  };
  const machine = (answer: object = found) =>
    show(
      house({ profiles: [model("display", "d")], devices: [device("d", "Display")] }),
      <Machine device={device("d", "Display")} />,
      { answers: { "/machine": answer, "/explore": answer, "/exploration": answer } },
    );
  const asked = (seen: ReturnType<typeof machine>) => seen.asked.at(-1)?.body;

  it("says in how many states it may be, and what its keys made of it", async () => {
    machine();
    expect(await screen.findByText(/has 3 states in which nothing is under way/)).toBeTruthy();
    const [, row, last] = screen.getAllByRole("row");
    expect(row?.textContent).toBe("Powerit goes on; it goes offoffon, HDMI 1on, HDMI 2");
    expect(last?.textContent).toContain("once it has settled, after 8 s at the latest");
    expect(last?.textContent).toContain("on, HDMI 1");
  });

  it("takes keys one after the other, each after its pause, and gives the last one back", async () => {
    const seen = machine();
    await screen.findByRole("group", { name: "Keys of Display" });
    await choose("Pause before each key", "5 s");
    await userEvent.click(screen.getByRole("button", { name: "Power" }));
    await waitFor(() => expect(asked(seen)).toMatchObject({ keys: [{ function: "power", wait_ms: 5_000 }] }));
    await userEvent.click(await screen.findByRole("button", { name: "Source" }));
    await waitFor(() =>
      expect(asked(seen)).toMatchObject({ keys: [{ function: "power" }, { function: "source" }] }),
    );
    await userEvent.click(await screen.findByRole("button", { name: "Last key back" }));
    expect(screen.getByRole("button", { name: "From the start" })).toHaveProperty("disabled", false);
    await userEvent.click(screen.getByRole("button", { name: "From the start" }));
    await waitFor(() =>
      expect(screen.getByRole("button", { name: "From the start" })).toHaveProperty("disabled", true),
    );
  });

  it("begins in a state that is chosen", async () => {
    const seen = machine();
    await screen.findByRole("group", { name: "Keys of Display" });
    await choose("It starts", "on, HDMI 2");
    await waitFor(() => expect(JSON.stringify(seen.asked.at(-1))).toContain("2"));
  });

  it("shows eight states and counts the rest", async () => {
    const many = Array.from({ length: 11 }, (_, at) => `state ${at}`);
    machine({ ...found, steps: [{ name: "Power", reactions: [], states: many }] });
    expect(await screen.findByText("and 3 more")).toBeTruthy();
  });

  it("has nothing to press where no key switches it", async () => {
    machine({ ...found, keys: [] });
    expect(await screen.findByText(/No key switches Display/)).toBeTruthy();
  });
});

describe("what a remote is", () => {
  const said = (kind: string, certain: boolean) => ({
    kind,
    certain,
    why: "A hand stops infrared.",
    next: "Learn it with the learner.",
  });
  const sheet = (answer: object) => {
    const take = vi.fn();
    const seen = show(house(), <RemoteSheet open onClose={() => undefined} onTake={take} />, {
      answers: { "/remotes": answer },
    });
    return { take, seen };
  };

  it("is told by three checks that need no instrument", async () => {
    const { seen } = sheet(said("infrared", false));
    await choose("Works through a hand", "no");
    await choose("The camera shows it", "yes");
    await choose("Frequency on its label", "433 MHz");
    await waitFor(() =>
      expect(seen.asked.at(-1)?.body).toEqual({
        works_through_hand: false,
        camera_shows: true,
        label_mhz: 433.92,
      }),
    );
    const status = await screen.findByRole("status");
    expect(status.textContent).toBe("Infrared, probablyA hand stops infrared.Learn it with the learner.");
  });

  it("is noted as a control path", async () => {
    const { take } = sheet(said("radio433", true));
    await userEvent.click(await screen.findByRole("button", { name: "Note it as a control path" }));
    expect(take).toHaveBeenCalledWith("rf433");
  });

  it("is no path while nobody knows", async () => {
    sheet(said("unknown", false));
    expect((await screen.findByRole("status")).textContent).toContain("Not known yet");
    expect(screen.queryByRole("button", { name: "Note it as a control path" })).toBeNull();
  });
});

describe("the models of a house", () => {
  const used = { ...model("display", "d"), maker: "Ostwick", model: "Pane 55" };
  const free = { ...model("receiver", "r"), maker: "Ostwick", model: "Hub 7" };
  const shipped = { ...model("projector", "p"), maker: "Fernlea", model: "Beam 2" };
  const view = () => {
    const onOpen = vi.fn();
    const seen = show(
      house({ profiles: [used, free], devices: [device("d", "Display")] }),
      <ModelsView onOpen={onOpen} />,
      { answers: { "/library": [shipped] } },
    );
    return { seen, onOpen };
  };

  it("are listed by maker and name, with who uses them", async () => {
    const { onOpen } = view();
    const table = screen.getByRole("table", { name: "Models of this house" });
    const names = within(table)
      .getAllByRole("rowheader")
      .map((head) => head.textContent);
    expect(names).toEqual(["Ostwick Hub 7", "Ostwick Pane 55"]);
    await userEvent.click(within(table).getByRole("button", { name: "Display" }));
    expect(onOpen).toHaveBeenCalledWith("d");
  });

  it("are removed only where nobody uses them", async () => {
    const { seen } = view();
    expect(screen.queryByRole("button", { name: "Remove Ostwick Pane 55" })).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Remove Ostwick Hub 7" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]).toMatchObject({ do: "remove", kind: "profile", id: "r" });
  });

  it("are taken over from the library, and duplicated", async () => {
    const { seen } = view();
    await userEvent.click(await screen.findByRole("button", { name: "Take Fernlea Beam 2 over" }));
    await waitFor(() => expect(seen.asked.some((asked) => asked.path.endsWith("/copies"))).toBe(true));
    expect(seen.asked.find((asked) => asked.path.endsWith("/copies"))?.body).toEqual({
      what: "model",
      id: "p",
    });
    await waitFor(() =>
      expect(screen.getByRole("button", { name: "Duplicate Ostwick Pane 55" })).toHaveProperty(
        "disabled",
        false,
      ),
    );
    await userEvent.click(screen.getByRole("button", { name: "Duplicate Ostwick Pane 55" }));
    await waitFor(() =>
      expect(seen.asked.filter((asked) => asked.path.endsWith("/copies")).at(-1)?.body).toEqual({
        what: "profile",
        id: "d",
      }),
    );
  });
});
