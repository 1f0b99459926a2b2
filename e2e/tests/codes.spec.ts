import type { Page } from "@playwright/test";
import { accessible, expect, opened, test, type Kestrel } from "./server";

/** The demo house over HTTP. */
async function house(kestrel: Kestrel) {
  const [first] = (await (await fetch(`${kestrel.url}/api/houses`)).json()) as { id: string }[];
  const path = `${kestrel.url}/api/houses/${first?.id}`;
  const view = (await (await fetch(path)).json()) as {
    rooms: { id: string; name: string }[];
    devices: { id: string; name: string; room: string }[];
    codes: { id: string; device: string }[];
    versions: Record<string, number>;
  };
  return { path, view };
}

/** Forgets every code of some devices, and lets the bench's clocks run four times as fast. */
async function unlearned(kestrel: Kestrel, names: string[]) {
  const { path, view } = await house(kestrel);
  const devices = view.devices.filter((device) => names.includes(device.name)).map((device) => device.id);
  const edits = view.codes
    .filter((code) => devices.includes(code.device))
    .map((code) => ({ do: "remove", kind: "code", id: code.id, base: view.versions[code.id] }));
  const send = (to: string, body: unknown) =>
    fetch(`${path}${to}`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(body),
    });
  if (edits.length > 0) expect((await send("/edits", { edits })).ok).toBe(true);
  for (const room of view.rooms) await send(`/rooms/${room.id}/rehearsal/rate`, { rate: 4 });
}

async function tool(page: Page, name: string) {
  await page.getByRole("button", { name: "More" }).click();
  await page.getByRole("menuitem", { name }).click();
}

async function choose(page: Page, label: string, option: string) {
  await page.getByRole("combobox", { name: label, exact: true }).click();
  await page.getByRole("option", { name: option, exact: true }).click();
}

/** Goes to a function by search, closes it again and starts learning its device: all with the keyboard. */
async function startLearning(page: Page, words: string) {
  await page.keyboard.press("Control+k");
  await page.keyboard.type(words);
  await expect(page.getByRole("option", { selected: true })).toContainText("Code");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("tablist", { name: "What is entered" })).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("tablist", { name: "What is entered" })).toHaveCount(0);
  await page.keyboard.press("l");
}

/** Goes from room to room until one is there. */
async function goTo(page: Page, room: string) {
  const heading = page.getByRole("heading", { level: 1 });
  await expect(async () => {
    if ((await heading.textContent()) !== `Marram Point ▸ ${room}`) await page.keyboard.press("]");
    await expect(heading).toHaveText(`Marram Point ▸ ${room}`, { timeout: 300 });
  }).toPass();
}

/** Learns the key that is asked for; gives the name of the next one. */
async function learnKey(page: Page, radio: boolean) {
  const status = page.getByRole("main").getByRole("status");
  await expect(
    page.getByRole("complementary", { name: "Handset on the table" }).getByRole("button").first(),
  ).toBeEnabled();
  if (radio) {
    await expect(status).toContainText("Listening for the frequency");
    await page.keyboard.press("Space");
    await expect(status).toContainText("The frequency is found. Let go, then press");
    await page.keyboard.press("Space");
    await expect(page.getByText("One press is not enough.")).toBeVisible();
    await page.keyboard.press("Enter");
    await expect(status).toContainText("once more");
    await page.keyboard.press("Space");
  } else {
    await expect(status).toContainText("Listening. Press");
    await page.keyboard.press("Space");
  }
  await expect(status).toContainText("Heard");
}

test("three handsets are learned from nothing with the keyboard alone", async ({ page, kestrel }) => {
  await unlearned(kestrel, ["Projector", "Screen", "Cabin display"]);
  await opened(page, kestrel);
  await page.keyboard.press("2");

  await test.step("an infrared handset with jitter and a key that bounces", async () => {
    await startLearning(page, "projector power on");
    for (const [at, key] of ["Power on", "Power off", "Source", "Right", "Left", "OK"].entries()) {
      await expect(page.getByRole("heading", { level: 3, name: key })).toBeVisible();
      await learnKey(page, false);
      await page.keyboard.press("Enter");
      await expect(page.getByText(`${at + 1} of 6 keys of Projector have a code`)).toBeVisible();
    }
    await page.keyboard.press("Escape");
    await expect(page.getByRole("button", { name: "OK of Projector: decoded" })).toBeVisible();
  });

  await test.step("a radio handset, interrupted and resumed", async () => {
    await startLearning(page, "code screen down");
    await learnKey(page, true);
    await page.keyboard.press("Enter");
    await expect(page.getByText("1 of 3 keys of Screen have a code")).toBeVisible();
    await page.keyboard.press("Escape");
    await page.reload();
    await expect(page.getByRole("button", { name: "Learn L" })).toBeVisible();
    await startLearning(page, "code screen up");
    await expect(page.getByRole("heading", { level: 3, name: "Up" })).toBeVisible();
    for (const count of [2, 3]) {
      await learnKey(page, true);
      await page.keyboard.press("Enter");
      await expect(page.getByText(`${count} of 3 keys of Screen have a code`)).toBeVisible();
    }
    await page.keyboard.press("Escape");
  });

  await test.step("an infrared handset with one key that is radio", async () => {
    await goTo(page, "Bunk Cabin");
    await startLearning(page, "cabin display power on");
    for (let at = 1; at <= 6; at++) {
      await learnKey(page, false);
      await page.keyboard.press("Enter");
      await expect(page.getByText(`${at} of 7 keys of Cabin display have a code`)).toBeVisible();
    }
    const status = page.getByRole("main").getByRole("status");
    await expect(status).toContainText("Listening. Press “Lamp”");
    await page.keyboard.press("Space");
    await expect(page.getByText("This key is radio.")).toBeVisible();
    await page.keyboard.press("Enter");
    await learnKey(page, true);
    await page.keyboard.press("Enter");
    await expect(page.getByText("7 of 7 keys of Cabin display have a code")).toBeVisible();
    await accessible(page);
    await page.keyboard.press("Escape");
    await expect(page.getByRole("button", { name: "Lamp of Cabin display: decoded" })).toBeVisible();
  });
});

test("what goes wrong while learning is named, with what to do", async ({ page, kestrel }) => {
  await unlearned(kestrel, []);
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await startLearning(page, "receiver disc");
  const status = page.getByRole("main").getByRole("status");
  await expect(page.getByRole("heading", { level: 3, name: "Disc" })).toBeVisible();

  await test.step("nothing heard in 10 s", async () => {
    await expect(page.getByText("Nothing was heard in 10 s.")).toBeVisible();
    await page.keyboard.press("Enter");
  });
  await test.step("a slip of the thumb", async () => {
    await expect(status).toContainText("Listening");
    await choose(page, "The thumb gives", "a slip");
    await page.getByRole("button", { name: "Press Disc on the handset" }).click();
    await expect(page.getByText("Too short.")).toBeVisible();
    await page.keyboard.press("d");
  });
  await test.step("the wrong key", async () => {
    await choose(page, "The thumb gives", "as asked");
    await expect(status).toContainText("Listening");
    await page.getByRole("button", { name: "Press Stream on the handset" }).click();
    await expect(page.getByText("This is the code of “Stream”.")).toBeVisible();
    await page.keyboard.press("d");
  });
  await test.step("two keys in one go", async () => {
    await expect(status).toContainText("Listening");
    await page.getByRole("button", { name: "Press Game on the handset" }).click();
    await page.getByRole("button", { name: "Press Mute on the handset" }).click();
    await expect(page.getByText(/Two keys\.|This is the code of/)).toBeVisible();
    await page.keyboard.press("d");
  });
  await test.step("on learned again from the off key", async () => {
    await page
      .getByRole("button", { name: /^Power on/ })
      .first()
      .click();
    await expect(status).toContainText("Listening");
    await page.getByRole("button", { name: "Press Power off on the handset" }).click();
    await expect(page.getByText("On and off swapped?")).toBeVisible();
  });
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Disc of Receiver: no code" }).click();
  await page.getByRole("button", { name: "Cancel" }).click();
});

test("a test writes down what it proves, and somebody can say otherwise", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await goTo(page, "Bunk Cabin");
  await page.keyboard.press("2");
  const margin = page.getByRole("complementary", { name: "Notes in the margin" });
  await expect(margin.getByText("On and off of Cabin disc player are swapped")).toBeVisible();
  await page.getByRole("button", { name: "Power off of Cabin disc player: decoded" }).click();
  await expect(page.getByRole("region", { name: "Power off of Cabin disc player" })).toContainText("Read as");
  await page.keyboard.press("t");
  await expect(
    page.getByText("Cabin disc player took it for “Power on” and not for “Power off”."),
  ).toBeVisible();
  await expect(page.getByRole("button", { name: "Power off of Cabin disc player: failed" })).toBeVisible();
  const panel = page.getByRole("region", { name: "Power off of Cabin disc player" });
  await panel.getByLabel("What was seen").fill("It hummed.");
  await panel.getByRole("button", { name: "Only sometimes" }).click();
  await expect(panel.getByText("Written down as: only sometimes.")).toBeVisible();
  await panel.getByRole("tab", { name: "Attempts" }).click();
  await expect(panel.getByRole("table", { name: "Attempts" }).getByRole("row")).toHaveCount(3);
  await panel.getByRole("tab", { name: "Twins and comparison" }).click();
  await expect(panel.getByRole("table", { name: "Near twins" })).toContainText(
    "Cabin disc player · Power on",
  );
  await expect(panel.getByRole("img", { name: /^Both waveforms/ })).toBeVisible();
  await accessible(page);
  await page.getByRole("combobox", { name: "Show" }).click();
  await page.getByRole("option", { name: "what failed" }).click();
  await expect(page.getByRole("button", { name: "Power off of Cabin disc player: failed" })).toBeVisible();
  await expect(page.getByRole("button", { name: "Home of Cabin streamer: decoded" })).toHaveCount(0);
});

test("a keymap is previewed, taken over as one step, and undone", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await tool(page, "Import or copy codes …");
  const sheet = page.getByRole("dialog", { name: "Import or copy codes" });
  await choose(page, "To", "Receiver");
  const box = sheet.getByRole("textbox", { name: /^A remote keymap/ });
  await box.fill("[[protocols]\nname");
  await expect(sheet.getByRole("alert")).toContainText("neither a remote keymap");
  await box.fill(
    '[[protocols]]\nprotocol = "nec"\nvariant = "necx"\n[protocols.scancodes]\n0x117a31 = "KEY_DVD"\n0x117a40 = "KEY_FROBNICATE"\n[[protocols]]\nprotocol = "mystery"\n[protocols.scancodes]\n0x1 = "KEY_UP"\n',
  );
  const preview = sheet.getByRole("table", { name: "What would be imported" });
  await expect(preview.getByRole("row").filter({ hasText: "Disc" })).toContainText("gets its code");
  await expect(preview.getByRole("row").filter({ hasText: "KEY_FROBNICATE" })).toContainText(
    "a new function",
  );
  await expect(sheet.getByText("Line 10: The protocol “mystery” is not known here.")).toBeVisible();
  await accessible(page);
  await sheet.getByRole("button", { name: "Take 2 over" }).click();
  await expect(page.getByRole("button", { name: "Disc of Receiver: decoded" })).toBeVisible();
  await page.getByRole("button", { name: /^Undo/ }).click();
  await expect(page.getByRole("button", { name: "Disc of Receiver: no code" })).toBeVisible();
  await expect(page.getByRole("button", { name: /^KEY_FROBNICATE/ })).toHaveCount(0);

  await test.step("a file that names its devices goes to them", async () => {
    await tool(page, "Import or copy codes …");
    await box.fill(
      "device,function,as,code\nReceiver,Night mode,message,nec-ext address=31249 command=119\n" +
        "Console,Search,message,nec address=4 command=99\nNobody,Search,message,nec address=4 command=99\n",
    );
    await expect(sheet.getByRole("combobox", { name: "To" })).toHaveText("the devices that the file names");
    await expect(preview.getByRole("row").filter({ hasText: "Receiver · Night mode" })).toBeVisible();
    await expect(preview.getByRole("row").filter({ hasText: "Console · Search" })).toBeVisible();
    await expect(preview.getByRole("row").filter({ hasText: "belongs to no device" })).toHaveCount(1);
    await choose(page, "To", "Receiver");
    await expect(sheet.getByRole("button", { name: "Take 3 over" })).toBeVisible();
    await page.keyboard.press("Escape");
  });

  await test.step("codes are copied from another device", async () => {
    await tool(page, "Import or copy codes …");
    await choose(page, "From", "another device");
    await choose(page, "To", "Disc player");
    await choose(page, "Device to copy from", "Cabin disc player");
    await expect(sheet.getByRole("button", { name: "Take 3 over" })).toBeVisible();
    await page.keyboard.press("Escape");
  });

  await test.step("everything is exported, and says what a format cannot hold", async () => {
    await tool(page, "Export codes …");
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      page.getByRole("link", { name: "Save as Code set, CSV" }).click(),
    ]);
    expect(download.suggestedFilename()).toMatch(/\.csv$/);
  });
});

test("a file of a logic analyser with two signals asks which", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await page.getByRole("button", { name: "Stop of Disc player: no code" }).click();
  const times = [100, 700, 1300, 1900, 2500, 3700];
  const wave = times
    .map((at, turn) => `#${at} ${(turn + 1) % 2}!\n#${at + 40} ${(turn + 1) % 2}#`)
    .join("\n");
  await page
    .getByRole("textbox", { name: /^Capture/ })
    .fill(
      `$timescale 1 us $end\n$var wire 1 ! D0 $end\n$var wire 1 # D1 $end\n$enddefinitions $end\n${wave}\n#99000`,
    );
  await expect(page.getByText("This file holds several signals.")).toBeVisible();
  await choose(page, "Signal of the file", "D1");
  await expect(page.getByRole("img", { name: /^Waveform of/ })).toBeVisible();
});

test("opaque payloads and network commands are kept as what they are", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await page.getByRole("button", { name: "Stop of Disc player: no code" }).click();
  const panel = page.getByRole("region", { name: "Stop of Disc player" });
  await panel.getByRole("tab", { name: "An opaque payload" }).click();
  const box = panel.getByRole("textbox", { name: /^Payload as hex/ });
  await box.fill("26 00 0");
  await expect(panel.getByRole("alert")).toContainText("5 hex digits");
  await box.fill("JgAKAA==");
  await expect(panel.getByText("26 00 0a 00")).toBeVisible();
  await panel.getByRole("button", { name: "Keep payload" }).click();
  await expect(page.getByRole("button", { name: "Stop of Disc player: opaque" })).toBeVisible();
  await page.keyboard.press("t");
  await expect(panel.getByRole("alert")).toContainText("was not learned by this gateway");

  await panel.getByRole("button", { name: /^Enter another/ }).click();
  await panel.getByRole("tab", { name: "A network command" }).click();
  await panel.getByRole("textbox", { name: /^Text;/ }).fill("STOP\\q");
  await expect(panel.getByText("“\\q” is no escape.")).toBeVisible();
  await panel.getByRole("textbox", { name: /^Text;/ }).fill("STOP");
  await choose(page, "Checked by", "crc-16/modbus");
  await expect(panel.getByText("Sends 7 bytes")).toBeVisible();
  await panel.getByRole("button", { name: "Save command" }).click();
  await expect(page.getByRole("button", { name: "Stop of Disc player: opaque, 2 codes" })).toBeVisible();
  await accessible(page);
});

test("code sets are told apart with the fewest presses, and what worked is taken over", async ({
  page,
  kestrel,
}) => {
  await unlearned(kestrel, ["Projector"]);
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await tool(page, "Try code sets on a device …");
  const sheet = page.getByRole("dialog", { name: "Try code sets on a device" });
  await choose(page, "Device", "Projector");
  await expect(sheet.getByText("3 sets agree so far; 2 more presses tell them apart at most.")).toBeVisible();
  await accessible(page);
  await sheet.getByRole("button", { name: /^Send “Power on”/ }).click();
  const answer = sheet.getByRole("status");
  await expect(answer).toContainText("Did the device do it?");
  const works = (await answer.textContent())?.includes("starting up") ?? false;
  await sheet.getByRole("button", { name: works ? "It worked" : "Nothing, or the wrong thing" }).click();
  await expect(sheet.getByText("Only “Tarnbeck P2” agrees with what was tried.")).toBeVisible();
  if (!works) {
    await sheet.getByRole("button", { name: "Send “Power on”" }).click();
    await sheet.getByRole("button", { name: "It worked" }).click();
  }
  await sheet.getByRole("button", { name: "Take over the 1 that worked" }).click();
  await expect(page.getByRole("button", { name: "Power on of Projector: tested" })).toBeVisible();
});

test("a hidden key is found, one command at a time, and never sent twice", async ({ page, kestrel }) => {
  await unlearned(kestrel, []);
  await opened(page, kestrel);
  await goTo(page, "Watch Room");
  await page.keyboard.press("2");
  await tool(page, "Search for hidden keys …");
  const sheet = page.getByRole("dialog", { name: "Search for hidden keys" });
  await choose(page, "Device", "Display");
  await expect(sheet.getByText("Unknown commands can change service settings")).toBeVisible();
  await sheet.getByRole("button", { name: /^Send the next/ }).click();
  await expect(sheet.getByText("pd32 address=1799 command=0")).toBeVisible();
  await expect(sheet.getByRole("combobox", { name: "What did the device do" })).toBeFocused();
  await page.keyboard.press("Enter");
  await expect(sheet.getByText(/1 were tried and are never sent again/)).toBeVisible();
  await page.keyboard.press("Escape");
  await tool(page, "Search for hidden keys …");
  await choose(page, "Device", "Display");
  await expect(sheet.getByRole("button", { name: /^Send the next/ })).not.toContainText("command=0,");
  await sheet.getByRole("button", { name: /^Send the next/ }).click();
  await sheet.getByRole("combobox", { name: "What did the device do" }).fill("Service menu");
  await sheet.getByRole("button", { name: "Keep it as a function" }).click();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("button", { name: "Service menu of Display: tested" })).toBeVisible();
});

test("functions of one key, renamed and pressed in their own ways", async ({ page, kestrel }) => {
  await opened(page, kestrel);
  await page.keyboard.press("2");
  await page.getByRole("button", { name: "Home twice of Streamer: decoded" }).click();
  const panel = page.getByRole("region", { name: "Home twice of Streamer" });
  await expect(panel.getByText("pressed twice")).toBeVisible();
  await page.keyboard.press("t");
  await expect(panel.getByText("Sent. Streamer: done.")).toBeVisible();
  await panel.getByRole("tab", { name: "How its key is pressed" }).click();
  await panel.getByRole("textbox", { name: "Presses", exact: true }).fill("12");
  await panel.getByRole("button", { name: "Save" }).click();
  await expect(panel.getByRole("alert")).toContainText("Presses are 1 to 9");
  await panel.getByRole("textbox", { name: "Presses", exact: true }).fill("3");
  await panel.getByRole("button", { name: "Save" }).click();
  await expect(panel.getByText("pressed three times")).toBeVisible();
  await page.keyboard.press("Escape");
  await tool(page, "Rename functions …");
  const sheet = page.getByRole("dialog", { name: "Rename functions" });
  await choose(page, "Device", "Streamer");
  await sheet.getByRole("textbox", { name: "Exchange" }).fill("twice");
  await sheet.getByRole("textbox", { name: "for" }).fill("thrice");
  await sheet.getByRole("button", { name: "Exchange", exact: true }).click();
  await sheet.getByRole("button", { name: "Rename 1" }).click();
  await expect(page.getByRole("button", { name: "Home thrice of Streamer: tested" })).toBeVisible();
});
