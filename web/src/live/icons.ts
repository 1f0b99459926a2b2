import {
  AppWindow,
  ArrowDown,
  ArrowDownToLine,
  ArrowUpToLine,
  Captions,
  ChevronDown,
  ChevronLeft,
  ChevronRight,
  ChevronUp,
  ChevronsDown,
  ChevronsUp,
  Circle,
  CircleHelp,
  CornerUpLeft,
  Disc3,
  FastForward,
  Gamepad2,
  Hand,
  History,
  House,
  Info,
  Languages,
  LayoutGrid,
  Lightbulb,
  List,
  LogOut,
  type LucideIcon,
  Mic,
  Minus,
  Moon,
  MoonStar,
  Music,
  Newspaper,
  Pause,
  Play,
  Plus,
  Power,
  Rewind,
  RotateCcw,
  RotateCw,
  SkipBack,
  SkipForward,
  SlidersHorizontal,
  Square,
  Star,
  ToggleRight,
  Tv,
  VolumeX,
  Waves,
} from "lucide-react";
import type { LiveThing, SurfaceKey } from "../api/types";

/** What a word of the vocabulary is drawn as. Digits and names have none: they are read. */
const TERMS: Record<string, LucideIcon> = {
  Up: ChevronUp,
  Down: ChevronDown,
  Left: ChevronLeft,
  Right: ChevronRight,
  "Volume up": Plus,
  "Volume down": Minus,
  Mute: VolumeX,
  "Mute on": VolumeX,
  Back: CornerUpLeft,
  Exit: LogOut,
  Home: House,
  Menu: List,
  "Top menu": List,
  Options: SlidersHorizontal,
  Info,
  Guide: Newspaper,
  Play,
  Pause,
  "Play/pause": Play,
  Stop: Square,
  Record: Circle,
  Rewind,
  Forward: FastForward,
  Previous: SkipBack,
  Next: SkipForward,
  Eject: ArrowDown,
  Subtitles: Captions,
  "Audio track": Languages,
  "Channel up": ChevronsUp,
  "Channel down": ChevronsDown,
  "Last channel": History,
  Voice: Mic,
};

/** What comes from a source is drawn as that. */
const SOURCES: Partial<Record<NonNullable<LiveThing["source"]>, LucideIcon>> = {
  "disc-player": Disc3,
  streamer: Waves,
  console: Gamepad2,
  tuner: Tv,
};

/** The arrows around OK, which need no word. */
const ARROWS = ["Up", "Down", "Left", "Right"];

/** Is it one of the four arrows, or OK between them? */
export function isPad(key: SurfaceKey): boolean {
  return key.role?.is === "term" && (ARROWS.includes(key.role.name) || key.role.name === "OK");
}

/** Does its picture say it all? */
export function isWordless(key: SurfaceKey): boolean {
  return key.role?.is === "term" && ARROWS.includes(key.role.name);
}

/** Louder or softer. */
export function isLoudness(key: SurfaceKey): boolean {
  return key.role?.is === "term" && (key.role.name === "Volume up" || key.role.name === "Volume down");
}

/** What something that can be started is drawn as. */
export function thingIcon(thing: LiveThing | undefined): LucideIcon {
  return (thing?.source && SOURCES[thing.source]) ?? (thing?.seen === false ? Music : Tv);
}

/** What a key is drawn as; none for a digit, and for what a hand has made without a role. */
export function keyIcon(key: SurfaceKey, thing: LiveThing | undefined): LucideIcon | undefined {
  const role = key.role;
  switch (role?.is) {
    case "start":
      return LayoutGrid;
    case "before":
      return History;
    case "room-off":
      return Moon;
    case "jump":
      return role.on ? RotateCw : RotateCcw;
    case "house-rest":
      return MoonStar;
    case "stop-all":
      return Hand;
    case "activity":
      return thingIcon(thing);
    case "look":
      return Lightbulb;
    case "switch":
      return ToggleRight;
    case "app":
      return AppWindow;
    case "favourite":
      return Star;
    case "power":
      return Power;
    case "page":
      return CircleHelp;
    case "moves":
      if (/ (stop|halt)$/i.test(key.label)) return Hand;
      return / (up|in|open|raise)$/i.test(key.label) ? ArrowUpToLine : ArrowDownToLine;
    case "term":
      return TERMS[role.name];
    default:
      return undefined;
  }
}
