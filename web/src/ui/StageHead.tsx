import type { ReactNode } from "react";

/** The head of every stage: what is on the table, its one key figure, and the actions at its right. */
export function StageHead({
  title,
  figure,
  children,
}: {
  title: ReactNode;
  figure?: ReactNode;
  children?: ReactNode;
}) {
  return (
    <div className="mb-2 flex min-h-9 flex-wrap items-center gap-x-3.5 gap-y-1">
      <h2 className="text-[19px]">{title}</h2>
      <p className="text-muted">{figure}</p>
      <div className="ml-auto flex flex-wrap items-center gap-2">{children}</div>
    </div>
  );
}
