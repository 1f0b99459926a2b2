const KEY = "kestrel-left:";

/** Where a house was left. */
export interface Left {
  room: string;
  stage: string;
}

/** Where a house was left last on this computer. */
export function leftAt(house: string): Left | undefined {
  const text = localStorage.getItem(KEY + house);
  if (text === null) return undefined;
  const [room = "", stage = ""] = text.split(" ");
  return { room, stage };
}

/** Remembers where a house is left. */
export function leaveAt(house: string, { room, stage }: Left): void {
  localStorage.setItem(KEY + house, `${room} ${stage}`);
}
