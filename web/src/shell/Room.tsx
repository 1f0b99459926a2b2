import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import { RequestError } from "../api/client";
import { useConnection, useLiveHouse } from "../api/live";
import { useHistoryStep, useHouse, useNotes } from "../api/queries";
import type { Edited, HouseView } from "../api/types";
import { CodesStage } from "../stages/codes/CodesStage";
import { CuesStage } from "../stages/cues/CuesStage";
import { KitStage } from "../stages/kit/KitStage";
import { RehearseStage } from "../stages/rehearse/RehearseStage";
import { SequencesStage } from "../stages/sequences/SequencesStage";
import { SurfacesStage } from "../stages/surfaces/SurfacesStage";
import { ProblemNote } from "../ui/Problem";
import { Waiting } from "../ui/Waiting";
import { devicesServing, RoomValue, type RoomContext, type Said } from "./context";
import { AskName } from "./AskName";
import { pageCommands } from "./commands";
import { KeysHelp } from "./KeysHelp";
import { Logbook } from "./Logbook";
import { leaveAt, leftAt } from "./left";
import { LogLine } from "./LogLine";
import { Margin } from "./Margin";
import { NextLine } from "./NextLine";
import { NoRoom } from "./NoRoom";
import { Palette } from "./Palette";
import { PaperFoot, PaperHead } from "./Paper";
import { Passage } from "./Passage";
import { Rooms } from "./Rooms";
import { STAGES } from "./stages";
import { applyTheme, savedTheme, type Theme } from "./theme";
import { useKeys } from "./useKeys";

/** A room: the passage bar, a stage on the table, the margin and the log line. */
export function Room() {
  const { house: houseId = "", room: roomId, stage: stageId } = useParams();
  const house = useHouse(houseId);
  if (!house.data)
    return house.error ? <Gone error={house.error} /> : <Waiting what="the house" error={null} />;
  const room = roomId ?? house.data.rooms[0]?.id;
  if (house.data.rooms.length === 0 || !room) return <NoRoom house={house.data} />;
  const stage = STAGES.find((known) => known.id === stageId);
  const there = (id: string | undefined) => house.data.rooms.some((known) => known.id === id);
  if (!stage || !there(room)) {
    const left = leftAt(houseId);
    const first = house.data.rooms[0]?.id ?? room;
    const target = there(roomId) ? room : there(left?.room) ? left?.room : first;
    const at = stage?.id ?? STAGES.find((known) => known.id === left?.stage)?.id ?? "kit";
    return <Navigate to={`/houses/${houseId}/rooms/${target}/${at}`} replace />;
  }
  return <Table key={room} houseId={houseId} room={room} stage={stage.id} />;
}

/** A house that is not there: removed, or never was. */
function Gone({ error }: { error: Error }) {
  const gone = error instanceof RequestError && error.problem.status === 404;
  return (
    <main className="mx-auto mt-16 max-w-xl px-4">
      <ProblemNote
        text={
          gone
            ? "This house is not on the shelf any more: it was removed, or its address is another one."
            : error.message
        }
      >
        <Link className="link" to="/">
          Go to the shelf
        </Link>
      </ProblemNote>
    </main>
  );
}

/** Devices that serve a room; in a cupboard, those that stand in it. */
function devicesOf(house: HouseView, room: string) {
  const rack = house.rooms.find((known) => known.id === room)?.rack;
  return rack ? house.devices.filter((device) => device.room === room) : devicesServing(house, room);
}

// The visit is another day than the desk: its stage is loaded once somebody goes there.
const HandoverStage = lazy(() =>
  import("../stages/handover/HandoverStage").then((part) => ({ default: part.HandoverStage })),
);

const VIEWS = {
  kit: KitStage,
  codes: CodesStage,
  sequences: SequencesStage,
  cues: CuesStage,
  surfaces: SurfacesStage,
  rehearse: RehearseStage,
  handover: HandoverStage,
};

function Table({ houseId, room, stage }: { houseId: string; room: string; stage: keyof typeof VIEWS }) {
  const house = useHouse(houseId);
  const notes = useNotes(houseId, room);
  const history = useHistoryStep(houseId);
  const navigate = useNavigate();
  const connected = useConnection();
  const [said, setSaid] = useState<Said>();
  const [margin, setMargin] = useState(() => window.innerWidth >= 1200);
  const [theme, setTheme] = useState<Theme>(savedTheme);
  const [open, setOpen] = useState<"palette" | "keys" | "log" | "rooms">();

  const say = useCallback((text: string) => setSaid({ text, at: new Date() }), []);
  useLiveHouse(
    houseId,
    useCallback((edited: Edited) => say(`${edited.who}, on another page: ${edited.title}`), [say]),
  );
  useEffect(() => applyTheme(theme), [theme]);
  useEffect(() => leaveAt(houseId, { room, stage }), [houseId, room, stage]);

  const go = useCallback(
    (target: string, select?: Record<string, string>) => {
      const query = select ? `?${new URLSearchParams(select)}` : "";
      void navigate(`/houses/${houseId}/rooms/${room}/${target}${query}`);
    },
    [navigate, houseId, room],
  );
  const step = useCallback(
    (kind: "undo" | "redo") =>
      history.mutate(kind, {
        onSuccess: (saved) => say(saved.title),
        onError: (error) => say(error.message),
      }),
    [history, say],
  );

  const view = house.data;
  const value = useMemo<RoomContext | undefined>(
    () => view && { house: view, room, devices: devicesOf(view, room), say, go },
    [view, room, say, go],
  );
  const rooms = view?.rooms ?? [];
  const neighbour = (by: number) => {
    const at = rooms.findIndex((known) => known.id === room);
    const next = rooms[(at + by + rooms.length) % rooms.length];
    if (next && next.id !== room) void navigate(`/houses/${houseId}/rooms/${next.id}/${stage}`);
  };
  useKeys({
    stage: (digit) => {
      const target = STAGES.find((known) => known.digit === digit);
      if (target) go(target.id);
    },
    room: neighbour,
    palette: () => setOpen("palette"),
    undo: () => step("undo"),
    redo: () => step("redo"),
    margin: () => setMargin((shown) => !shown),
    rehearse: () => go("rehearse"),
    help: () => setOpen("keys"),
    shelf: () => void navigate("/"),
  });

  const shelf = () => void navigate("/");
  const onTheme = () => setTheme(theme === "dark" ? "light" : "dark");
  const onMargin = () => setMargin((shown) => !shown);
  const commands = pageCommands({ house: houseId, theme, step, open: setOpen, shelf, onTheme, onMargin });
  if (!value || !view) return null;
  const Stage = VIEWS[stage];
  const close = () => setOpen(undefined);
  return (
    <RoomValue.Provider value={value}>
      <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_1fr_auto]">
        <Passage
          stage={stage}
          notes={notes.data}
          theme={theme}
          onTheme={onTheme}
          onPalette={() => setOpen("palette")}
          onStep={step}
          onRooms={() => setOpen("rooms")}
          onMargin={onMargin}
        />
        <div className="relative flex min-h-0">
          <main
            className="relative min-w-0 flex-1 overflow-auto overscroll-contain px-[18px] py-3 max-md:px-3"
            data-testid="table"
          >
            {!connected && (
              <p role="alert" className="mb-2 border-l-4 border-stop bg-soft px-3 py-2">
                The server or its database cannot be reached. What you typed is still here; this page tries
                again by itself and goes on when it is back.
              </p>
            )}
            <PaperHead house={view} room={room} stage={stage} />
            {notes.data?.next && <NextLine next={notes.data.next} stage={stage} />}
            <Suspense fallback={<Waiting what="the stage" error={null} />}>
              <Stage />
            </Suspense>
            <PaperFoot house={view} />
          </main>
          <Margin
            shown={margin}
            onToggle={() => setMargin(!margin)}
            findings={notes.data?.findings}
            stage={stage}
          />
        </div>
        <div>
          <AskName />
          <LogLine said={said} onOpen={() => setOpen("log")} onKeys={() => setOpen("keys")} />
        </div>
      </div>
      <Palette open={open === "palette"} onClose={close} commands={commands} />
      <Rooms open={open === "rooms"} onClose={close} house={view} room={room} stage={stage} say={say} />
      <KeysHelp open={open === "keys"} onClose={close} />
      <Logbook open={open === "log"} onClose={close} />
    </RoomValue.Provider>
  );
}
