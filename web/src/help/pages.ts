import type { StageInfo } from "../shell/stages";

/** What is said of a stage; words in brackets are terms that are explained. */
export interface HelpPage {
  what: string;
  /** What to do, in order. */
  order: string[];
  /** What is checked all the time. */
  checked: string;
  /** The trade's reasons. */
  reasons: [string, string][];
}

/** A page for each stage: short, and only what helps at that table. */
export const PAGES: Record<StageInfo["id"], HelpPage> = {
  kit: {
    what: "What stands in the room, how it is plugged, and how a command reaches it. Everything later is worked out from this.",
    order: [
      "Add each device, of a model of the library or of a new one.",
      "Plug the cables: picture and sound find their way along them.",
      "Open a device and make its [waits|wait] true; “assumed” is a guess until somebody has measured.",
      "Choose its [control path] and note its address with a [reservation].",
    ],
    checked:
      "Plugs that do not fit, inputs that nothing reaches, addresses twice, waits that nobody measured, what nothing can reach.",
    reasons: [
      [
        "Infrared, radio or network",
        "Infrared is everywhere and one-way: the device never says whether it understood. Radio goes round corners; [rolling codes|rolling code] and Bluetooth cannot be learned. Over the network a device gives [feedback], and needs a [reservation].",
      ],
      [
        "Why a toggle is trouble",
        "A [toggle] is right only if one knows how the device stands. Look for [discrete codes|discrete code] first; where there are none, the plan finds a way round, or says that there is none.",
      ],
      [
        "Measured once",
        "A [warm-up] in a data sheet is a hope. Nine stopwatch readings in the house are worth more than any profile.",
      ],
    ],
  },
  codes: {
    what: "The words of each device: which code means which key.",
    order: [
      "Learn each key from its remote, or paste a [capture]; what it says is read at once.",
      "Import what you have: a keymap, a CSV, another device of the same model.",
      "Send each once (T) and say what the device did.",
    ],
    checked:
      "Codes that are missing, that two keys or two devices share, on and off exchanged, a press that is shorter than the device wants.",
    reasons: [
      [
        "Decoded, not copied",
        "A [capture] has the jitter of one press and the [carrier] of one receiver. Where the protocol is known, the message is sent in its exact timing.",
      ],
      [
        "What cannot be learned",
        "Bluetooth and [rolling codes|rolling code] cannot. Look for another [control path]: the network, a trigger, a serial line.",
      ],
      [
        "Hidden keys",
        "Many devices know a [discrete code] for on, off and each input that their remote has no key for. The search tries an address gently.",
      ],
    ],
  },
  sequences: {
    what: "From what an [activity] wants, the commands, their order and their [waits|wait] are worked out, and proved.",
    order: [
      "Say what plays, where it is seen and where it is heard.",
      "Look at the [plan] and its weakest wait.",
      "Go through the switch matrix: every way from one situation to another.",
      "Where a cell is [at risk], read its story and apply a remedy.",
    ],
    checked:
      "Every cell of the matrix, from every state that devices can be in and for every length of their waits.",
    reasons: [
      [
        "Why it takes so long",
        "The longest chain decides: mostly one [warm-up]. The [bound] says how soon anything could be ready; what is shown reaches it, or says that it may not.",
      ],
      [
        "Two schools of coupling",
        "Some leave control over HDMI on and let devices wake each other; others switch every [coupling] off and send all of it. Both can be proved here, and compared.",
      ],
      [
        "Right after, and long after",
        "Whoever changes their mind at once meets devices that still cool or move. The plan for any moment is the one that is proved and printed; once everything has settled the quicker one is used.",
      ],
    ],
  },
  cues: {
    what: "What the light does as the evening goes: one line a moment.",
    order: [
      "Make [zones|zone] of the lamps that are dimmed together, and a few [looks|look].",
      "Write the lines: at this moment, provided that, this light.",
      "Play an evening, and look which ways of starting no line catches.",
    ],
    checked:
      "Lines that never fire, that fight for one zone, that drive each other in a ring; a dark way out; lamps below their floor.",
    reasons: [
      [
        "Everybody starts a film their own way",
        "A telephone, the player's own remote, the lid of a case: a [cue] should hang on what happens in the room, not on which key was pressed.",
      ],
      [
        "Never without light",
        "A way out stays lit. What moves or heats does so only while somebody is there who can stop it.",
      ],
    ],
  },
  surfaces: {
    what: "What the family presses, in their words.",
    order: [
      "Lay a [surface] out from the activities, then move what your family wants elsewhere.",
      "Open its link on a phone and use it for some weeks.",
      "Look at Rehearse, Calls: what the household found not right waits there.",
      "Engrave only then.",
    ],
    checked:
      "Keys that do nothing, labels that say otherwise, too small a key, names that a voice would confuse, and whether a guest gets a picture by the labels alone.",
    reasons: [
      [
        "The same place in every room",
        "Fingers learn places, not labels. What is in all rooms stands in the same corner in all of them.",
      ],
      ["Stop is always there", "What moves needs its stop within reach, on every page, without scrolling."],
    ],
  },
  rehearse: {
    what: "The room answers: [stand-ins|stand-in] get the same bytes as the real devices would, and behave as Kit says.",
    order: [
      "Start an [activity], and watch what is sent and what each device does.",
      "Meddle: press a device's own button, lose every third press, pull a plug.",
      "Keep an evening as a [story]; it is played again after every change.",
      "Let a thousand evenings be made up.",
    ],
    checked:
      "Whether the runtime ever says “ready” where it is not, or drives a motor the other way without its stop.",
    reasons: [
      [
        "What the runtime knows",
        "It has a [belief] of each device: commanded, seen or assumed. A second remote in a drawer makes it wrong; [feedback] makes it right again.",
      ],
      [
        "Before anyone drives there",
        "What goes wrong here would have gone wrong there, with a family watching.",
      ],
    ],
  },
  handover: {
    what: "The visit to the house and what comes after it: times that are measured, tests that are seen, papers, the log, and the call a year later.",
    order: [
      "Stopwatch: begin with the [wait] that stands first; `Space` starts and stops. Nine readings in the house cover nine times of ten.",
      "Tests: walk the round on a tablet, one test at a time; what is ticked in the rehearsal room is only rehearsed.",
      "Papers: hand over under a number; the family gets its page.",
      "Service call: tick what the client says, ask what tells most, write down what it was.",
    ],
    checked:
      "Readings outside the interval that plans use, tests that are stale after an edit and why, tests that failed and were forgotten, a house that was changed since it was handed over.",
    reasons: [
      [
        "Why nine",
        "Whatever the distribution, the longest of n readings covers the next one with n/(n+1): nine for 90 %. A list that must still be open rests on the shortest in the same way; what rests on both ends takes nineteen.",
      ],
      [
        "Why each reading is kept",
        "A bare longest time forgets how it was found. What went wrong is struck with a reason, and still counts below the line.",
      ],
      [
        "Mains and motors",
        "Cut the mains only once lamps have cooled, at the breaker, by a competent person; local rules come first. Motors rest after four minutes of running, or their thermal stop falsifies what is read.",
      ],
    ],
  },
};
