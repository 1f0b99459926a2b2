import { useFieldArray, useFormContext, useWatch } from "react-hook-form";
import type { Profile } from "../../api/types";
import { AfterPowerOn, KeyPick, Part, Pick, Sockets, SpanFields, Text, Tick } from "./fields";
import type { KitForm } from "./form";
import { Lines, RemoveLine } from "./lines";
import { seconds } from "../../ui/time";
import { KINDS } from "./words";

const WIDE = "mt-1 grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-x-4 gap-y-2";

/** How a device is switched, how its inputs are chosen, how it moves. Sockets and stops belong to the model. */
export function Behaviour({ profile, own }: { profile: Profile; own: boolean }) {
  const { control } = useFormContext<KitForm>();
  const [power, moves, standsBy] = useWatch({ control, name: ["power", "moves", "standsBy"] });
  const switched = power !== "always-on" && power !== "follows";
  return (
    <>
      {!own && (
        <div className="mt-2 grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-x-4 gap-y-2">
          <Pick name="kind" label="What it is" options={KINDS} />
          <Text name="gap" label="Pause after a command (s)" />
          <Pick
            name="wifi"
            label="Radio network"
            options={[
              ["none", "it has none"],
              ["2.4-only", "2.4 GHz only"],
              ["both", "2.4 and 5 GHz"],
            ]}
          />
        </div>
      )}
      {own && (
        <div className="mt-2 max-w-[200px]">
          <Text name="gap" label="Pause after a command (s)" />
        </div>
      )}
      <Part title="Power">
        <Pick
          name="power"
          label="How it is switched"
          options={[
            ["discrete", "A key for on, one for off"],
            ["toggle", "One key for both"],
            ["network-wake", "Woken by the network"],
            ["follows", "Follows a trigger or USB"],
            ["always-on", "It is always on"],
          ]}
        />
        {power === "discrete" && <KeyPick name="on" label="On" profile={profile} fallback="Power on" />}
        {power === "network-wake" && (
          <KeyPick name="wake" label="Wakes it" profile={profile} fallback="Wake" />
        )}
        {(power === "discrete" || power === "network-wake") && (
          <KeyPick name="off" label="Off" profile={profile} fallback="Power off" />
        )}
        {power === "toggle" && (
          <KeyPick name="toggle" label="On and off" profile={profile} fallback="Power" />
        )}
        <Pick
          name="afterMains"
          label="When mains come back it is"
          options={[
            ["off", "off"],
            ["on", "on"],
            ["last", "as it was"],
          ]}
        />
        {switched && <Tick name="standsBy" label="It switches itself off" />}
      </Part>
      {(power === "toggle" || power === "discrete") && <WakeKeys profile={profile} />}
      <div className={WIDE}>
        {switched && <SpanFields name="warmUp" label="From on until it takes commands" />}
        {switched && <SpanFields name="picture" label="From on until picture or sound" />}
        {switched && <SpanFields name="coolDown" label="From off until power keys work again" />}
        {power === "follows" && <SpanFields name="followDelay" label="It follows after" />}
        {switched && standsBy && <SpanFields name="autoStandby" label="It switches itself off after" />}
      </div>
      <Inputs profile={profile} own={own} />
      <Part title="Movement">
        <Tick name="moves" label="It moves (screen, blind, awning)" />
        {moves && <KeyPick name="up" label="Up, in or open" profile={profile} fallback="Up" />}
        {moves && <KeyPick name="down" label="Down, out or closed" profile={profile} fallback="Down" />}
        {moves && <KeyPick name="stop" label="Stop" profile={profile} fallback="Stop" none="there is none" />}
        {moves && <Text name="reversal" label="Pause before it is reversed (s)" />}
        {moves && <Tick name="stopsBetween" label="It can stop between its ends" />}
        {moves && <Tick name="hides" label="Down, it hides what is behind it" />}
      </Part>
      {moves && (
        <div className={WIDE}>
          <SpanFields name="travelUp" label="The whole way up" />
          <SpanFields name="travelDown" label="The whole way down" />
        </div>
      )}
      {moves && !own && <Stops profile={profile} />}
    </>
  );
}

/** When something is stopped, in words. */
function stopTime({ after_ms, spread_per_mille }: { after_ms: number; spread_per_mille: number }): string {
  return `by time: ${seconds(after_ms)} after the upper limit, ± ${(spread_per_mille / 10).toFixed(1)} %`;
}

/** Places between its ends that have keys of their own, such as the shapes of a masking screen. */
function Stops({ profile }: { profile: Profile }) {
  const { control } = useFormContext<KitForm>();
  const { fields, append, remove } = useFieldArray({ control, name: "stops" });
  return (
    <Lines
      title="Stops between its ends"
      add={() => append({ name: "", key: `new:Stop ${fields.length + 1}`, percent: "50" })}
      hint="places that a key of their own drives it to"
    >
      {fields.map((field, index) => (
        <li key={field.id} className="grid grid-cols-[1fr_1fr_1fr_auto] items-end gap-2">
          <Text name={`stops.${index}.name`} label="Stop" />
          {field.timed ? (
            <p className="pb-1.5">{stopTime(field.timed)}</p>
          ) : (
            <KeyPick
              name={`stops.${index}.key`}
              label="Key"
              profile={profile}
              fallback={`Stop ${index + 1}`}
            />
          )}
          <Text name={`stops.${index}.percent`} label="How far down (%)" />
          <RemoveLine what={`stop ${index + 1}`} onRemove={() => remove(index)} />
        </li>
      ))}
    </Lines>
  );
}

function Inputs({ profile, own }: { profile: Profile; own: boolean }) {
  const { control } = useFormContext<KitForm>();
  const [power, selection] = useWatch({ control, name: ["power", "selection"] });
  return (
    <>
      <Part title="Inputs">
        <Pick
          name="selection"
          label="How an input is chosen"
          options={[
            ["none", "There is nothing to choose"],
            ["discrete", "A key for each"],
            ["cycle", "One key steps through them"],
            ["menu", "From a list on the screen"],
          ]}
        />
        {selection === "cycle" && (
          <KeyPick name="next" label="Next" profile={profile} fallback="Next input" />
        )}
        {selection === "cycle" && (
          <KeyPick
            name="previous"
            label="Previous"
            profile={profile}
            fallback="Previous input"
            none="there is none"
          />
        )}
        {selection === "menu" && (
          <>
            <KeyPick name="open" label="Opens the list" profile={profile} fallback="Source" />
            <KeyPick name="next" label="Next entry" profile={profile} fallback="Right" />
            <KeyPick name="previous" label="Previous entry" profile={profile} fallback="Left" />
            <KeyPick name="confirm" label="Takes the entry" profile={profile} fallback="OK" />
            <Pick
              name="opens"
              label="The list opens"
              options={[
                ["first", "at its first entry"],
                ["current", "at the present input"],
                ["last-used", "where it was last"],
              ]}
            />
            <Pick
              name="ends"
              label="At its ends it"
              options={[
                ["clamp", "stops"],
                ["wrap", "goes on at the other end"],
              ]}
            />
          </>
        )}
        {power !== "always-on" && selection !== "none" && <AfterPowerOn />}
      </Part>
      {selection !== "none" && (
        <div className={WIDE}>
          <SpanFields name="inputChange" label="Until a chosen input shows" />
          {selection === "menu" && <SpanFields name="closesAfter" label="The list closes by itself after" />}
        </div>
      )}
      {!own && (
        <div className="mt-2 grid gap-4 xl:grid-cols-2">
          <Sockets name="inputs" profile={profile} />
          <Sockets name="outputs" profile={profile} />
        </div>
      )}
    </>
  );
}

/** Keys that switch it on and never off: with one of them a toggle becomes safe. */
function WakeKeys({ profile }: { profile: Profile }) {
  const { register } = useFormContext<KitForm>();
  return (
    <fieldset className="mt-1">
      <legend className="label">Other keys that switch it on, and never off</legend>
      <div className="flex flex-wrap gap-x-4">
        {profile.functions.map((known) => (
          <label key={known.id} className="flex min-h-8 items-center gap-1.5">
            <input type="checkbox" className="size-4" value={known.id} {...register("wakeKeys")} />
            {known.name}
          </label>
        ))}
        {profile.functions.length === 0 && <p className="text-[13px] text-muted">It has no keys yet.</p>}
      </div>
    </fieldset>
  );
}
