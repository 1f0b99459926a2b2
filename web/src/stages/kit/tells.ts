import type { Sense, Tell } from "../../api/types";

/** What a device can tell of itself, as the form offers it. */
export const TELLS: Record<Tell, string> = {
  power: "power",
  input: "input",
  volume: "volume",
  mute: "mute",
  transport: "what it plays",
  app: "app or channel",
  position: "position",
  level: "level of light",
  motion: "motion",
  presence: "presence",
  door: "door",
  presses: "presses of its keys",
};

/** What a sensor that was added senses. */
export const SENSES: Record<Sense, string> = {
  "power-draw": "how much it draws from the mains",
  light: "the light of its picture or lamp",
  contact: "a contact at its lower end",
};
