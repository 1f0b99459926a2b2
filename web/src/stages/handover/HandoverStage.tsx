import { useSearchParams } from "react-router";
import { PARTS } from "../../shell/stages";
import { StageHead } from "../../ui/StageHead";
import { Tabs } from "../../ui/Tabs";
import { StopwatchView } from "./StopwatchView";
import { TestsView } from "./TestsView";
import { LogbookView } from "./LogbookView";
import { PapersView } from "./PapersView";
import { ServiceView } from "./ServiceView";

const VIEWS = PARTS.handover;

/** Handover: the visit to the house, the papers, and the call a year later. */
export function HandoverStage() {
  const [params, setParams] = useSearchParams();
  const chosen = VIEWS.find(([name]) => name === params.get("show"))?.[0] ?? "stopwatch";
  return (
    <section aria-label="Handover">
      <StageHead title="Handover" />
      <Tabs
        label="Views of the handover"
        parts={VIEWS}
        value={chosen}
        onChange={(name) =>
          setParams((old) => {
            old.set("show", name);
            return old;
          })
        }
      />
      {chosen === "stopwatch" && <StopwatchView />}
      {chosen === "tests" && <TestsView />}
      {chosen === "papers" && <PapersView />}
      {chosen === "logbook" && <LogbookView />}
      {chosen === "service" && <ServiceView />}
    </section>
  );
}
