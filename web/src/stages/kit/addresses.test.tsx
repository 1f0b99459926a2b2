// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { device, house, model, show } from "../../testing/house";
import { Addresses } from "./Addresses";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const view = () =>
  house({
    profiles: [model("receiver", "receiver", { wifi: "2.4-only" }), model("streamer", "streamer")],
    devices: [device("receiver", "Receiver"), device("streamer", "Streamer", { room: "loft" })],
    versions: { receiver: 4 },
  });

/** Types into a field as a user does, and leaves it. */
function type(label: string, text: string) {
  const field = screen.getByLabelText(label);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
}

describe("the table of addresses", () => {
  it.each([
    ["IP address of Receiver", "192.168.4.20", { ip: "192.168.4.20" }],
    ["MAC address of Receiver", "02:00:5e:10:00:01", { mac: "02:00:5e:10:00:01" }],
    ["Port of Receiver", "4998", { port: 4998 }],
  ])("keeps %s as it is typed", async (label, text, network) => {
    const seen = show(view(), <Addresses />);
    type(label, text);
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]).toMatchObject([
      { do: "put", base: 4, entity: { entity: "device", value: { network } } },
    ]);
  });

  it.each(["0", "65536", "none"])("keeps no port for %s", async (text) => {
    const known = view();
    const [receiver] = known.devices;
    if (receiver) receiver.network = { ...receiver.network, port: 80 } as typeof receiver.network;
    const seen = show(known, <Addresses />);
    type("Port of Receiver", text);
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity?.value["network"]).toMatchObject({ port: null });
  });

  it("sends nothing where nothing was changed", () => {
    const seen = show(view(), <Addresses />);
    fireEvent.blur(screen.getByLabelText("IP address of Receiver"));
    expect(seen.edits).toEqual([]);
  });

  it("says why an address was refused, beside the device, and keeps what was typed", async () => {
    show(view(), <Addresses />, { refuse: "IP address: “300.1.1.1” is none." });
    type("IP address of Receiver", "300.1.1.1");
    expect(await screen.findByText("IP address: “300.1.1.1” is none.")).toBeDefined();
    expect(screen.getByLabelText<HTMLInputElement>("IP address of Receiver").value).toBe("300.1.1.1");
  });

  it("shows the devices of the room, or of the whole house with their rooms", () => {
    show(view(), <Addresses />);
    expect(screen.queryByText("Streamer")).toBeNull();
    expect(screen.getByText("2.4 GHz only")).toBeDefined();
    fireEvent.click(screen.getByLabelText("The whole house"));
    expect(screen.getByText("Streamer")).toBeDefined();
    expect(screen.getByText("Loft")).toBeDefined();
    expect(screen.getByText("Hall, 2.4 GHz only")).toBeDefined();
    expect(screen.getByText("Save as CSV").getAttribute("href")).toBe("/api/houses/h/tables/addresses.csv");
  });

  it("says that a room is empty", () => {
    show(house(), <Addresses />);
    expect(screen.getByText("There is no device here yet.")).toBeDefined();
  });
});
