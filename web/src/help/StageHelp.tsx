import type { StageInfo } from "../shell/stages";
import { Drawing } from "./Drawing";
import { PAGES } from "./pages";
import { Explained } from "./Term";

/** What a stage is for: what to do there and in which order, what is checked, and why the trade does it so. */
export function StageHelp({ stage }: { stage: StageInfo["id"] }) {
  const page = PAGES[stage];
  return (
    <div className="mt-2 grid gap-2" data-testid="stage-help">
      <p>
        <Explained text={page.what} />
      </p>
      <Drawing stage={stage} />
      <h3 className="text-[14px]">What to do</h3>
      <ol className="list-decimal pl-5">
        {page.order.map((step) => (
          <li key={step}>
            <Explained text={step} />
          </li>
        ))}
      </ol>
      <h3 className="text-[14px]">What is checked</h3>
      <p>
        <Explained text={page.checked} />
      </p>
      {page.reasons.map(([title, text]) => (
        <section key={title}>
          <h3 className="text-[14px]">{title}</h3>
          <p>
            <Explained text={text} />
          </p>
        </section>
      ))}
    </div>
  );
}
