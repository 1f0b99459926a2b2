import type { components } from "./schema";

/** Short names for the types that the server describes. */
type Schemas = components["schemas"];

export type Activity = Schemas["Activity"];
export type Cable = Schemas["Cable"];
export type Candidate = Schemas["Candidate"];
export type Code = Schemas["Code"];
export type CodeBody = Schemas["CodeBody"];
export type CodeLine = Schemas["CodeLine"];
export type Connection = Schemas["Connection"];
export type Device = Schemas["Device"];
export type DeviceKind = Schemas["DeviceKind"];
export type DeviceView = Schemas["DeviceView"];
export type Edit = Schemas["Edit"];
export type Edited = Schemas["Edited"];
export type Entity = Schemas["Entity"];
export type Finding = Schemas["Finding"];
export type DeviceFunction = Schemas["Function"];
export type Heard = Schemas["Heard"];
export type HouseView = Schemas["HouseView"];
export type LogEntry = Schemas["LogEntry"];
export type Medium = Schemas["Medium"];
export type Notes = Schemas["Notes"];
export type Plan = Schemas["Plan"];
export type Problem = Schemas["Problem"];
export type Profile = Schemas["Profile"];
export type ReadCode = Schemas["ReadCode"];
export type ReadText = Schemas["ReadText"];
export type Reading = Schemas["Reading"];
export type RehearsalView = Schemas["RehearsalView"];
export type RunView = Schemas["RunView"];
export type Selection = Schemas["Selection"];
export type Situation = Schemas["Situation"];
export type Span = Schemas["Span"];
export type Step = Schemas["Step"];
export type Wait = Schemas["Wait"];
export type WireLine = Schemas["WireLine"];
