import { SessionsPart } from "./SessionsPart";
import { Archive, FileInput, Moon, Plus, Sun } from "lucide-react";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useLetter } from "../shell/useKeys";
import { applyTheme, savedTheme, type Theme } from "../shell/theme";
import { ProblemNote } from "../ui/Problem";
import { StageHead } from "../ui/StageHead";
import { Waiting } from "../ui/Waiting";
import { Backups } from "./Backups";
import { EmptyShelf } from "./EmptyShelf";
import { HouseTable } from "./HouseTable";
import { ImportSite } from "./ImportSite";
import { Removed } from "./Removed";
import { StartHouse } from "./StartHouse";
import { useShelf } from "./api";
import { ago, houseCount } from "./words";

/** The first page: all houses of the practice. */
export function ShelfPage() {
  const shelf = useShelf();
  const navigate = useNavigate();
  const [theme, setTheme] = useState<Theme>(savedTheme);
  const [open, setOpen] = useState<"start" | "import" | "backup">();
  const [said, setSaid] = useState("");
  const [trouble, setTrouble] = useState("");
  useEffect(() => applyTheme(theme), [theme]);
  useLetter("n", () => setOpen("start"));
  const close = () => setOpen(undefined);
  const enter = (house: string, room?: string | null) =>
    void navigate(room ? `/houses/${house}/rooms/${room}/kit` : `/houses/${house}`);
  if (!shelf.data) return <Waiting what="the shelf" error={shelf.error} />;
  const { houses, removed, daily, last } = shelf.data;
  const told = { say: setSaid, fail: setTrouble };
  return (
    <div className="flex h-full flex-col overflow-auto">
      <header className="flex items-center gap-5 border-b border-rule px-[18px]">
        <h1 className="py-3.5 text-[15px]">
          Kestrel Dune <span className="pl-3 font-normal text-muted">the shelf</span>
        </h1>
        <button
          type="button"
          className="btn ml-auto border-transparent text-[13px] font-medium"
          onClick={() => setTheme(theme === "dark" ? "light" : "dark")}
        >
          {theme === "dark" ? <Sun aria-hidden size={15} /> : <Moon aria-hidden size={15} />}
          {theme === "dark" ? "Paper" : "Dark room"}
        </button>
      </header>
      <main className="flex-1 px-[18px] py-3">
        <StageHead title={houseCount(houses.length)} figure={backupWords(daily.folder, last.made_at)}>
          <button type="button" className="btn" onClick={() => setOpen("import")}>
            <FileInput aria-hidden size={15} /> Import a file
          </button>
          <button type="button" className="btn" onClick={() => setOpen("backup")}>
            <Archive aria-hidden size={15} /> Backup
          </button>
          <button type="button" className="btn btn-main" onClick={() => setOpen("start")}>
            <Plus aria-hidden size={15} /> Start a house
          </button>
        </StageHead>
        {last.trouble && <ProblemNote text={`No backup was made: ${last.trouble}`} />}
        {trouble && <ProblemNote text={trouble} />}
        {houses.length > 0 ? (
          <HouseTable houses={houses} {...told} />
        ) : (
          <EmptyShelf onStart={() => setOpen("start")} onOpen={enter} fail={setTrouble} />
        )}
        <Removed removed={removed} {...told} />
        <SessionsPart />
      </main>
      <footer role="status" className="min-h-8 border-t border-rule px-[18px] py-1.5 text-[13px] text-muted">
        {said}
      </footer>
      <StartHouse open={open === "start"} onClose={close} onStarted={enter} />
      <ImportSite open={open === "import"} onClose={close} onTaken={enter} say={setSaid} />
      <Backups open={open === "backup"} onClose={close} daily={daily} last={last} say={setSaid} />
    </div>
  );
}

function backupWords(folder: string, made: string | null | undefined): string {
  if (!folder) return "no daily backup is set up";
  return made ? `last backup ${ago(made, new Date())}` : "no backup yet";
}
