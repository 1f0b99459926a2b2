/** Terms of the trade and of this program, explained where they stand underlined. The same meanings as docs/GLOSSARY.md. */
export const TERMS: Readonly<Record<string, string>> = {
  toggle:
    "One key for on and off: what it does depends on how the device stands, so a lost press turns everything after it round.",
  "discrete code":
    "A code that means one thing only, such as “on”: sent twice it does no harm. Many remotes have no key for it; the device may know it all the same.",
  wait: "The time until a device takes the next command, as an interval: the shortest and the longest that was ever seen or is assumed.",
  "warm-up":
    "From power on until a device takes commands. Lamps need tens of seconds, and ignore what comes earlier.",
  "cool-down":
    "From power off until a device can be switched on again. A hot lamp is not to be cut from the mains before.",
  coupling:
    "Over HDMI a device can wake others, or put them to standby. One wire helps; two makers’ ideas of it can work against a macro.",
  medium:
    "What carries a command: light, radio, the network or a wire. Two commands on one medium wait for each other.",
  gateway: "A box that gets commands over the network and sends them on as infrared or radio.",
  feedback: "What a device tells of itself: on or off, its input. Devices without it are driven on trust.",
  "control path":
    "A way in which a command reaches a device: infrared, radio, network, serial line, trigger.",
  reservation:
    "The router always gives this device the same address. Without it the address changes one day, and commands go to nobody.",
  capture: "What a receiver measured of one key press: marks and spaces in µs.",
  carrier: "The frequency at which infrared light blinks while it is on, mostly 36 to 40 kHz.",
  "rolling code": "A radio code that is another one at each press. It cannot be learned.",
  activity: "What a room is used for: what plays, where it is seen, where it is heard.",
  plan: "The commands from one situation to another, with the time of each.",
  bound: "No plan whatever can be ready sooner than this.",
  "at risk": "There is a course of events in which the plan ends wrong. The story tells the shortest one.",
  certain:
    "The plan ends right from every state that the devices can be in, however long each wait takes within its interval.",
  story: "A course of events, told in order; a kept one is played again as a test of the house.",
  cue: "A line of the cue sheet: at this moment, provided that, the light does this.",
  look: "The levels of all zones, under one name.",
  zone: "Lamps that are dimmed together.",
  surface: "What people press: a phone, a hand remote, a keypad.",
  "stand-in": "A small simulated device in the place of a real one, reached over the same sockets.",
  belief: "What the runtime takes a device to be in, where that comes from and how old it is.",
};
