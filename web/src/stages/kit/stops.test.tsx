// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { FormProvider, useForm } from "react-hook-form";
import { afterEach, describe, expect, it } from "vitest";
import type { Device, Profile } from "../../api/types";
import { Behaviour } from "./Behaviour";
import { Comforts } from "./Comforts";
import { formSchema, fromForm, newProfile, toForm, type KitForm } from "./form";

const device: Device = { id: "d", name: "Screen", profile: "p", room: "r", position: 0, behind: null };

/** The form of a device, and a function that tells what it stands for now. */
function open(profile: Profile, own = false): () => Profile {
  let form: KitForm = toForm(device, profile);
  function Form() {
    const methods = useForm<KitForm>({ defaultValues: form });
    form = methods.watch();
    return (
      <FormProvider {...methods}>
        <Behaviour profile={profile} own={own} />
        <Comforts profile={profile} own={own} />
      </FormProvider>
    );
  }
  render(<Form />);
  return () => fromForm(formSchema.parse(form), device, profile).profile;
}

afterEach(cleanup);

describe("stops between the ends of a screen", () => {
  it("are added with a key of their own, which is made where there is none", () => {
    const now = open(newProfile("screen", "Skerrow", "130"));
    const [line] = screen.getAllByText("Add a line");
    if (line) fireEvent.click(line);
    fireEvent.change(screen.getByLabelText("Stop", { selector: "input" }), { target: { value: "Scope" } });
    fireEvent.change(screen.getByLabelText("How far down (%)"), { target: { value: "70" } });
    const { stops, functions } = now();
    const key = functions.find((known) => known.name === "Stop 1")?.id;
    expect(key).toBeDefined();
    expect(stops).toEqual([{ name: "Scope", key, down_percent: 70 }]);
  });

  it.each(["0", "100", "half", ""])("refuse %s as how far down", (percent) => {
    const form = toForm(device, newProfile("screen", "Skerrow", "130"));
    const wrong = { ...form, stops: [{ name: "Scope", key: form.stop, percent }] };
    expect(formSchema.safeParse(wrong).error?.issues[0]?.message).toBe("1 to 99.");
  });

  it("belong to the model: a device of its own keeps them and is asked for none", () => {
    const profile = newProfile("screen", "Skerrow", "130");
    const stops = [{ name: "Scope", key: profile.functions[2]?.id ?? "", down_percent: 50 }];
    const now = open({ ...profile, stops }, true);
    expect(screen.queryByText("Stops between its ends")).toBeNull();
    expect(now().stops).toEqual(stops);
  });

  it("are taken away one by one, and all where it no longer moves", () => {
    const profile = newProfile("screen", "Skerrow", "130");
    const key = (at: number) => profile.functions[at]?.id ?? "";
    const stop = (name: string, at: number) => ({ name, key: key(at), down_percent: 50 });
    const now = open({ ...profile, stops: [stop("Scope", 0), stop("Wide", 1)] });
    fireEvent.click(screen.getByLabelText("Remove stop 1"));
    expect(now().stops).toEqual([stop("Wide", 1)]);
    fireEvent.click(screen.getByLabelText(/It moves/));
    expect(now().stops).toEqual([]);
    expect(now().motion).toBeNull();
  });
});

describe("what a device tells of itself", () => {
  it("is chosen from a list, in the order of the list", () => {
    const profile = newProfile("receiver", "Orrin", "R9");
    const feedback = { how: "push" as const, delay_ms: 200, tells: ["power" as const] };
    const now = open({ ...profile, feedback });
    fireEvent.click(screen.getByLabelText("volume"));
    fireEvent.click(screen.getByLabelText("input"));
    expect(now().feedback).toEqual({ ...feedback, tells: ["power", "input", "volume"] });
    fireEvent.click(screen.getByLabelText("power"));
    expect(now().feedback).toMatchObject({ tells: ["input", "volume"] });
  });
});
