import { useController, useFieldArray, useFormContext, useWatch } from "react-hook-form";
import type { Profile } from "../../api/types";
import { KeyPick, Part, Pick, SpanFields, Text, Tick } from "./fields";
import { NO_KEY, type KitForm } from "./form";
import { Lines, RemoveLine } from "./lines";
import { SENSES, TELLS } from "./tells";

/** Volume, settings, apps and channels, and what the device tells of itself. */
export function Comforts({ profile, own }: { profile: Profile; own: boolean }) {
  const { control } = useFormContext<KitForm>();
  const [loud, mute, feedback, apps, couples, skips] = useWatch({
    control,
    name: ["loud", "mute", "feedback", "apps", "couples", "skips"],
  });
  return (
    <details className="mt-3 border-t border-rule pt-1.5">
      <summary className="cursor-pointer font-semibold">Volume, settings, channels, feedback</summary>
      <Part title="Volume">
        <Tick name="loud" label="It makes sound" />
        {loud && (
          <>
            <KeyPick name="volumeUp" label="Louder" profile={profile} fallback="Volume up" />
            <KeyPick name="volumeDown" label="Softer" profile={profile} fallback="Volume down" />
            <Text name="volumeStep" label="A press changes it by" />
            <Text name="volumeRange" label="The scale goes from 0 to" />
            <Text name="volumeCeiling" label="Never louder than" />
            <Text name="volumeStart" label="After power-on (empty: as it was)" />
            <Tick name="volumeAbsolute" label="A value can be set, and it confirms it" />
            <Tick name="volumeDecibels" label="Its scale counts decibels" />
            <Pick
              name="mute"
              label="Mute"
              options={[
                ["none", "there is none"],
                ["toggle", "one key for both"],
                ["discrete", "a key for each"],
              ]}
            />
            {mute === "toggle" && (
              <KeyPick name="muteKey" label="Mute key" profile={profile} fallback="Mute" />
            )}
            {mute === "discrete" && (
              <KeyPick name="muteOn" label="Silent" profile={profile} fallback="Mute on" />
            )}
            {mute === "discrete" && (
              <KeyPick name="muteOff" label="Sounds again" profile={profile} fallback="Mute off" />
            )}
          </>
        )}
      </Part>
      <Part title="Jumps in what it plays">
        <Tick name="skips" label="It is known how far a press of its keys jumps" />
        {skips && (
          <>
            <KeyPick name="skipBack" label="Jumps back" profile={profile} fallback="Rewind" />
            <Text name="skipBackSeconds" label="Back by, in s" />
            <KeyPick name="skipForward" label="Jumps on" profile={profile} fallback="Forward" />
            <Text name="skipForwardSeconds" label="On by, in s" />
          </>
        )}
      </Part>
      <Modes profile={profile} own={own} />
      <Apps profile={profile} />
      {apps.some((app) => app.by === "digits") && (
        <div className="mt-1 max-w-[420px]">
          <SpanFields name="digits" label="Between digits, shortest and longest" />
        </div>
      )}
      <Part title="Control over HDMI">
        <Tick name="couples" label="It does things by itself over HDMI" />
        {couples && (
          <>
            <Tick name="couplesWakes" label="When it comes on, it wakes what shows it and takes the inputs" />
            <Tick name="couplesWoken" label="It lets itself be woken, and its input be taken" />
            <Tick name="couplesSleeps" label="When it goes off, it puts the others to standby" />
            <Tick name="couplesPutToSleep" label="It lets itself be put to standby" />
            <SpanFields name="couplesDelay" label="The other one follows after" />
          </>
        )}
      </Part>
      <Part title="Feedback">
        <Pick
          name="feedback"
          label="It tells of itself"
          options={[
            ["none", "nothing"],
            ["poll", "when asked"],
            ["push", "by itself"],
            ["sensor", "a sensor was added"],
          ]}
        />
        {feedback === "poll" && <Text name="feedbackEvery" label="It is asked every (s)" />}
        {feedback === "poll" && <Text name="feedbackTimeOut" label="An answer takes at most (s)" />}
        {(feedback === "push" || feedback === "sensor") && (
          <Text name="feedbackDelay" label="Told after (s)" />
        )}
        {(feedback === "poll" || feedback === "push") && <TellsPick />}
        {feedback === "sensor" && (
          <Pick name="feedbackSenses" label="It senses" options={Object.entries(SENSES)} />
        )}
      </Part>
    </details>
  );
}

/** What the device tells, chosen from the list. */
function TellsPick() {
  const { control } = useFormContext<KitForm>();
  const { field } = useController({ control, name: "feedbackTells" });
  const told = new Set<string>(field.value);
  return (
    <fieldset className="col-span-full">
      <legend className="text-muted">It tells</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {Object.entries(TELLS).map(([tell, words]) => (
          <label key={tell} className="flex min-h-8 items-center gap-1.5">
            <input
              type="checkbox"
              checked={told.has(tell)}
              onChange={() =>
                field.onChange(Object.keys(TELLS).filter((one) => told.has(one) !== (one === tell)))
              }
            />
            {words}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

function Modes({ profile, own }: { profile: Profile; own: boolean }) {
  const { control } = useFormContext<KitForm>();
  const { fields, append, remove } = useFieldArray({ control, name: "modes" });
  return (
    <Lines
      title="Settings (picture mode, lens memory, sound mode)"
      add={() => append({ name: "Picture mode", next: NO_KEY, values: "Film, Day" })}
      hint={own ? "for this device" : ""}
    >
      {fields.map((field, index) => (
        <li key={field.id} className="grid grid-cols-[1fr_2fr_1fr_auto] items-end gap-2">
          <Text name={`modes.${index}.name`} label="Setting" />
          <Text name={`modes.${index}.values`} label="Its values, with commas" />
          <KeyPick
            name={`modes.${index}.next`}
            label="Next value"
            profile={profile}
            fallback="Picture mode"
            none="there is none"
          />
          <RemoveLine what={`setting ${index + 1}`} onRemove={() => remove(index)} />
        </li>
      ))}
    </Lines>
  );
}

function Apps({ profile }: { profile: Profile }) {
  const { control } = useFormContext<KitForm>();
  const { fields, append, remove } = useFieldArray({ control, name: "apps" });
  const apps = useWatch({ control, name: "apps" });
  return (
    <Lines
      title="Apps and channels"
      add={() =>
        append({ name: "", by: "digits", key: profile.functions[0]?.id ?? "new:Launch", number: "" })
      }
      hint=""
    >
      {fields.map((field, index) => (
        <li key={field.id} className="grid grid-cols-[1fr_1fr_1fr_auto] items-end gap-2">
          <Text name={`apps.${index}.name`} label="App or channel" />
          <Pick
            name={`apps.${index}.by`}
            label="Reached by"
            options={[
              ["digits", "digits"],
              ["launch", "a command"],
            ]}
          />
          {apps[index]?.by === "launch" ? (
            <KeyPick name={`apps.${index}.key`} label="Command" profile={profile} fallback="" />
          ) : (
            <Text name={`apps.${index}.number`} label="Number" />
          )}
          <RemoveLine what={`app ${index + 1}`} onRemove={() => remove(index)} />
        </li>
      ))}
    </Lines>
  );
}
