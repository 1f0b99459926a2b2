import type { Activity, Extras, HouseView, Profile, Shortcut } from "../../api/types";

/** What comes with an activity, as it is typed. */
export interface ExtrasText {
  volume: string;
  app: string;
  settings: { device: string; mode: string; value: string }[];
  arrival: { device: string; function: string }[];
  favourites: FavouriteText[];
}

/** A favourite, as it is typed. */
export interface FavouriteText {
  name: string;
  does: Shortcut["does"];
  /** The channel number, the name of the app, or how many presses or steps. */
  text: string;
  /** The key, for presses. */
  function: string;
}

/** No app. */
export const NO_APP = "none";

/** An activity's extras as text. */
export function extrasText(extras: Activity["extras"]): ExtrasText {
  return {
    volume: extras?.volume == null ? "" : String(extras.volume),
    app: extras?.app ?? NO_APP,
    settings: extras?.settings ?? [],
    arrival: extras?.arrival ?? [],
    favourites: (extras?.favourites ?? []).map(({ name, does }) => ({
      name,
      does: does.does,
      text:
        does.does === "channel"
          ? does.number
          : does.does === "app"
            ? does.name
            : String(does.does === "presses" ? does.times : does.steps),
      function: does.does === "presses" ? does.function : "",
    })),
  };
}

/** The extras that were typed, or a sentence that says what is wrong. */
export function extrasValue(text: ExtrasText, source: Profile | undefined): Extras | string {
  const volume = text.volume.trim();
  if (volume !== "" && !/^\d+$/.test(volume))
    return `Start volume: “${volume}” is no number. Leave it empty for none.`;
  const favourites: Extras["favourites"] = [];
  for (const one of text.favourites) {
    if (one.name.trim() === "") return "Favourite: give it a name, or remove it.";
    const typed = one.text.trim();
    switch (one.does) {
      case "channel":
        if (!/^\d{1,6}$/.test(typed)) return `${one.name}: “${typed}” is no channel number of 1 to 6 digits.`;
        favourites.push({ name: one.name.trim(), does: { does: "channel", number: typed } });
        break;
      case "app":
        if (!source?.apps?.some((app) => app.name === typed))
          return `${one.name}: the source does not know “${typed}”. Choose one of its apps, or add it in Kit.`;
        favourites.push({ name: one.name.trim(), does: { does: "app", name: typed } });
        break;
      case "presses":
        if (!/^\d{1,2}$/.test(typed)) return `${one.name}: how many presses? A number from 1 to 30.`;
        favourites.push({
          name: one.name.trim(),
          does: { does: "presses", function: one.function, times: Number(typed) },
        });
        break;
      case "volume":
        if (!/^[+-]?\d{1,2}$/.test(typed)) return `${one.name}: how many steps? Such as 5, or -5 for softer.`;
        favourites.push({ name: one.name.trim(), does: { does: "volume", steps: Number(typed) } });
        break;
    }
  }
  return {
    volume: volume === "" ? null : Number(volume),
    app: text.app === NO_APP ? null : text.app,
    settings: text.settings,
    arrival: text.arrival,
    favourites,
  };
}

/** Gives names of copies that are not taken in a room. */
export function useCopyName(house: HouseView, room: string): (name: string) => string {
  return (name) => {
    const taken = house.activities.filter((a) => a.room === room).map((a) => a.name.toLowerCase());
    const base = name.replace(/ \d+$/, "");
    let number = 2;
    while (taken.includes(`${base} ${number}`.toLowerCase())) number += 1;
    return `${base} ${number}`;
  };
}
