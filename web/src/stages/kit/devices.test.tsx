// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Device, HouseView, Profile } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { AddDevice } from "./AddDevice";
import { DeviceForm } from "./DeviceForm";
import { DeviceRecords } from "./DeviceRecords";
import { RecordsView } from "./RecordsView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const none = () => undefined;

function stage(part: Partial<Device> = {}, versions: HouseView["versions"] = {}): HouseView {
  return house({
    profiles: [model("projector", "lamp")],
    devices: [device("lamp", "Lantern", part), device("spare", "Spare", { profile: "lamp", room: "loft" })],
    versions,
  });
}

/** Types into a field as a user does, and leaves it. */
function type(label: string, text: string) {
  const field = screen.getByLabelText(label);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
}

const button = (text: string) => screen.getByText<HTMLButtonElement>(text, { selector: "button" });
const first = (view: HouseView): Device => view.devices[0] as Device;

describe("a device that is added", () => {
  it("is of a new model with figures of common practice, in one step with it", async () => {
    let opened = "";
    const seen = show(stage(), <AddDevice open onClose={none} onAdded={(id) => (opened = id)} />);
    fireEvent.change(screen.getByLabelText("Name in this room"), { target: { value: "Display" } });
    fireEvent.change(screen.getByLabelText("Maker"), { target: { value: "Tarnbeck" } });
    fireEvent.change(screen.getByLabelText("Model name"), { target: { value: "V4" } });
    fireEvent.click(button("Add device"));
    await waitFor(() => expect(opened).not.toBe(""));
    const [profile, added] = seen.edits[0] ?? [];
    expect(profile?.entity).toMatchObject({ entity: "profile", value: { maker: "Tarnbeck", model: "V4" } });
    expect(added?.entity?.value).toMatchObject({
      id: opened,
      name: "Display",
      room: "hall",
      position: 1,
      profile: profile?.entity?.value["id"],
    });
    const made = profile?.entity?.value as unknown as Profile;
    expect(made.times.warm_up.basis).toEqual({ from: "assumed" });
  });

  it("stays typed where the server refuses it", async () => {
    show(stage(), <AddDevice open onClose={none} onAdded={none} />, {
      refuse: "Name: “Lantern” is taken. Choose another name.",
    });
    fireEvent.change(screen.getByLabelText("Name in this room"), { target: { value: "Lantern" } });
    fireEvent.change(screen.getByLabelText("Maker"), { target: { value: "Tarnbeck" } });
    fireEvent.change(screen.getByLabelText("Model name"), { target: { value: "V4" } });
    fireEvent.click(button("Add device"));
    expect(await screen.findByText("Name: “Lantern” is taken. Choose another name.")).toBeDefined();
    expect(screen.getByLabelText<HTMLInputElement>("Name in this room").value).toBe("Lantern");
  });

  it("says all that is missing at once, and sends nothing until then", () => {
    const seen = show(stage(), <AddDevice open onClose={none} onAdded={none} />);
    fireEvent.click(button("Add device"));
    const said = "Still missing: a name in this room, its maker and its model name.";
    expect(screen.getByText(said)).toBeDefined();
    fireEvent.change(screen.getByLabelText("Name in this room"), { target: { value: "Display" } });
    expect(screen.getByText("Still missing: its maker and its model name.")).toBeDefined();
    expect(seen.edits).toEqual([]);
  });
});

describe("the form of a device", () => {
  function open(view: HouseView, options: Parameters<typeof show>[2] = {}) {
    return show(view, <DeviceForm device={first(view)} onClose={none} onCopied={none} />, options);
  }

  it("can be saved only where something was changed, and be put back", () => {
    open(stage());
    expect(button("Save").disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Name in this room"), { target: { value: "Beamer" } });
    expect(button("Save").disabled).toBe(false);
    fireEvent.click(button("Put back"));
    expect(screen.getByLabelText<HTMLInputElement>("Name in this room").value).toBe("Lantern");
  });

  it("saves the model and the device with the versions that were on the screen", async () => {
    const seen = open(stage({}, { lamp: 4 }));
    fireEvent.change(screen.getByLabelText("Name in this room"), { target: { value: "Beamer" } });
    fireEvent.click(button("Save"));
    await waitFor(() => expect(seen.said).toEqual(["Saved."]));
    expect(seen.edits[0]).toMatchObject([
      { do: "put", base: 4, entity: { entity: "profile", value: { id: "lamp" } } },
      { do: "put", base: 4, entity: { entity: "device", value: { id: "lamp", name: "Beamer" } } },
    ]);
  });

  it("says whom a change of the model touches as well", () => {
    open(stage());
    expect(screen.getByText(/belongs to the model and changes Lantern and Spare\./)).toBeDefined();
  });

  it("marks what is no duration, counts it, and sends nothing", async () => {
    const seen = open(stage());
    fireEvent.change(screen.getByLabelText("Pause after a command (s)"), { target: { value: "soon" } });
    fireEvent.click(button("Save"));
    expect(await screen.findByText("One field needs another look: they are marked above.")).toBeDefined();
    expect(seen.edits).toEqual([]);
  });

  it("is removed with its version, and closed", async () => {
    const closed = vi.fn();
    const view = stage({}, { lamp: 7 });
    const seen = show(view, <DeviceForm device={first(view)} onClose={closed} onCopied={none} />);
    fireEvent.click(button("Remove device"));
    await waitFor(() => expect(closed).toHaveBeenCalled());
    expect(seen.edits).toEqual([[{ do: "remove", kind: "device", id: "lamp", base: 7 }]]);
  });

  it("says in what it differs from its model, and goes back to it", async () => {
    const overrides = [{ field: "after-mains", value: "on" }] as unknown as Device["overrides"];
    const seen = open(stage({ overrides: overrides ?? [] }));
    expect(screen.getByText(/^Differs from Maker lamp in:/)).toBeDefined();
    fireEvent.click(button("Be as the model again"));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]).toMatchObject([
      { entity: { entity: "device", value: { id: "lamp", overrides: [] } } },
    ]);
  });

  it("keeps what was typed when it is closed, over the version that was seen then", async () => {
    open(stage({}, { lamp: 7 }));
    fireEvent.change(screen.getByLabelText("Name in this room"), { target: { value: "Beamer" } });
    cleanup();
    const seen = open(stage({}, { lamp: 9 }));
    expect(screen.getByLabelText<HTMLInputElement>("Name in this room").value).toBe("Beamer");
    fireEvent.click(button("Save"));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    const put = seen.edits[0]?.find((edit) => edit.entity?.entity === "device");
    expect(put).toMatchObject({ base: 7, entity: { value: { name: "Beamer" } } });
    cleanup();
    open(stage());
    expect(screen.getByLabelText<HTMLInputElement>("Name in this room").value).not.toBe("Beamer");
  });

  it("forgets what was typed when it is put back", () => {
    open(stage());
    fireEvent.change(screen.getByLabelText("Name in this room"), { target: { value: "Beamer" } });
    fireEvent.click(button("Put back"));
    cleanup();
    open(stage());
    expect(screen.getByLabelText<HTMLInputElement>("Name in this room").value).not.toBe("Beamer");
  });

  it("closes with Escape only while nothing was typed", () => {
    const closed = vi.fn();
    const view = stage();
    show(view, <DeviceForm device={first(view)} onClose={closed} onCopied={none} />);
    const name = screen.getByLabelText("Name in this room");
    fireEvent.change(name, { target: { value: "Beamer" } });
    fireEvent.keyDown(name, { key: "Escape" });
    expect(closed).not.toHaveBeenCalled();
    fireEvent.click(button("Put back"));
    fireEvent.keyDown(name, { key: "Escape" });
    expect(closed).toHaveBeenCalledOnce();
  });
});

describe("the records of a device", () => {
  const open = (part: Partial<Device> = {}, options: Parameters<typeof show>[2] = {}) => {
    const view = stage(part);
    return show(view, <DeviceRecords device={first(view)} />, options);
  };
  const saved = async (seen: ReturnType<typeof open>) => {
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    return seen.edits[0]?.[0]?.entity?.value as unknown as Device;
  };

  it.each([
    ["IP address", "192.168.4.21", { ip: "192.168.4.21" }],
    ["Port", "4998", { port: 4998 }],
    ["Password of its protocol", "open sesame", { password: "open sesame" }],
    ["Driven at (address:port; empty is the stand-in)", "127.0.0.1:4000", { drive_at: "127.0.0.1:4000" }],
  ])("keep %s", async (label, text, network) => {
    const seen = open();
    type(label, text);
    expect((await saved(seen)).network).toMatchObject(network);
  });

  it("keep where it stands, and leave the rest of the records alone", async () => {
    const seen = open({ records: { note: "Fan was cleaned." } as unknown as NonNullable<Device["records"]> });
    type("Shelf, corner, height", "top shelf");
    expect((await saved(seen)).records).toMatchObject({ stands: "top shelf", note: "Fan was cleaned." });
  });

  it("ask under a name that a second try would use again", async () => {
    const names: (string | null)[] = [];
    const view = stage();
    show(view, <DeviceRecords device={first(view)} />);
    vi.stubGlobal("fetch", async (request: Request) => {
      names.push(request.headers.get("kestrel-request"));
      if (names.length === 1) throw new TypeError("the connection broke");
      const changed = { house: "h", revision: 2, put: [], taken: [], undo: null, redo: null };
      return Response.json({ title: "Saved.", made: null, at: "2026-01-01T00:00:00Z", again: true, changed });
    });
    type("IP address", "192.168.4.21");
    await waitFor(() => expect(names).toHaveLength(2), { timeout: 5_000 });
    expect(names[0]).not.toBeNull();
    expect(names[1]).toBe(names[0]);
  });

  it("let it serve other rooms, and always one", async () => {
    const seen = open();
    expect(screen.getByLabelText<HTMLInputElement>("Hall").disabled).toBe(true);
    fireEvent.click(screen.getByLabelText("Loft"));
    expect((await saved(seen)).serves).toEqual(["hall", "loft"]);
  });

  it("ask before commands leave this machine, for this address alone", async () => {
    const away = { drive_at: "192.168.4.30:23", allowed: "" } as unknown as NonNullable<Device["network"]>;
    const seen = open({ network: away });
    fireEvent.click(
      screen.getByLabelText(/is outside this machine: commands of the rehearsal go to a real device/),
    );
    expect((await saved(seen)).network).toMatchObject({ allowed: "192.168.4.30:23" });
  });

  it("ask nothing where the address is on this machine", () => {
    const here = { drive_at: "127.0.0.1:4000", allowed: "" } as unknown as NonNullable<Device["network"]>;
    open({ network: here });
    expect(screen.queryByLabelText(/is outside this machine/)).toBeNull();
  });

  it("say why something was refused", async () => {
    open({}, { refuse: "MAC address: “zz” is none. Write it as 02:00:5e:10:00:01." });
    type("MAC address", "zz");
    expect(
      await screen.findByText("MAC address: “zz” is none. Write it as 02:00:5e:10:00:01."),
    ).toBeDefined();
  });
});

describe("the records of a room", () => {
  it("tell what is written down and what is open, and keep secrets off the screen", () => {
    const records = { local_key: "s3cr3t", stands: "top shelf" } as unknown as NonNullable<Device["records"]>;
    const opened: string[] = [];
    show(stage({ records }), <RecordsView onOpen={(id) => opened.push(id)} />);
    expect(document.body.textContent).not.toContain("s3cr3t");
    expect(screen.getByText("kept")).toBeDefined();
    fireEvent.click(screen.getByText("Lantern"));
    expect(opened).toEqual(["lamp"]);
  });

  it("are saved with local keys and accounts only where that is asked for", () => {
    show(stage(), <RecordsView onOpen={none} />);
    const link = () => screen.getByText("Save as CSV").getAttribute("href");
    expect(link()).toContain("secrets=false");
    fireEvent.click(screen.getByLabelText("With local keys and accounts"));
    expect(link()).toContain("secrets=true");
  });

  it("say that the room is empty", () => {
    show(house(), <RecordsView onOpen={none} />);
    expect(screen.getByText("There is no device here yet.")).toBeDefined();
  });
});
