import type { FloorPlan, Placed, PictureSurface, RoomPicture } from "../../../api/types";
import { fontOf, lengthText } from "./geometry";
import { ScaleBar } from "./Drawing";

const EDGE = 260;

/** The section along the room, at the scale of the plan: screen, beam, eyes and lines of sight. */
export function Section({
  floor,
  placed,
  name,
  surfaceOf,
  picture,
  down,
  feet,
}: {
  floor: FloorPlan;
  placed: readonly Placed[];
  name: (device: string) => string;
  surfaceOf: (device: string) => PictureSurface | null | undefined;
  picture: RoomPicture | undefined;
  down: boolean;
  feet: boolean;
}) {
  const [length, , height] = floor.size_mm;
  const z = (mm: number) => height - mm;
  const font = fontOf(length);
  const on = placed.find((own) => own.device === picture?.on);
  const bottom = picture && z(picture.bottom_m * 1000);
  const top = picture && z((picture.bottom_m + picture.size_m[1]) * 1000);
  const projector = placed.find((own) => own.device === picture?.throw?.projector);
  const shows = picture !== undefined && on !== undefined && (down || !surfaceOf(on.device)?.black_mm);
  return (
    <svg
      viewBox={`${-EDGE} ${-EDGE} ${length + 2 * EDGE} ${height + 2 * EDGE + 260}`}
      className="w-full"
      role="img"
      aria-label={sectionWords(picture, name, feet)}
    >
      {shows && projector && on && top !== undefined && bottom !== undefined && (
        <path
          d={`M${projector.at_mm[0]} ${z(projector.at_mm[2])}L${on.at_mm[0]} ${top}L${on.at_mm[0]} ${bottom}Z`}
          fill="var(--field-6)"
          opacity={0.6}
        />
      )}
      <rect x={0} y={0} width={length} height={height} fill="none" className="stroke-ink" strokeWidth={40} />
      {placed.map((own) => (
        <g key={own.device}>
          <rect
            x={own.at_mm[0] - own.size_mm[1] / 2}
            y={z(own.at_mm[2]) - own.size_mm[2] / 2}
            width={Math.max(own.size_mm[1], 30)}
            height={own.size_mm[2]}
            className="fill-paper stroke-edge"
            strokeWidth={16}
          />
          {surfaceOf(own.device)?.black_mm ? (
            <line
              x1={own.at_mm[0]}
              x2={own.at_mm[0]}
              y1={z(own.at_mm[2] - own.size_mm[2] / 2)}
              y2={
                own.device === picture?.on && shows && bottom !== undefined
                  ? bottom
                  : z(own.at_mm[2] - own.size_mm[2] / 2)
              }
              className="stroke-accent"
              strokeWidth={34}
            />
          ) : null}
        </g>
      ))}
      {floor.seats.map((own) => (
        <g key={own.name}>
          {shows && on && top !== undefined && bottom !== undefined && (
            <g className="stroke-second" strokeWidth={8} strokeDasharray="50 40">
              <line x1={own.eye_mm[0]} y1={z(own.eye_mm[2])} x2={on.at_mm[0]} y2={top} />
              <line x1={own.eye_mm[0]} y1={z(own.eye_mm[2])} x2={on.at_mm[0]} y2={bottom} />
            </g>
          )}
          <circle
            cx={own.eye_mm[0]}
            cy={z(own.eye_mm[2])}
            r={80}
            className="fill-paper stroke-ink"
            strokeWidth={16}
          />
          <path
            d={`M${own.eye_mm[0] - 10} ${z(own.eye_mm[2] - 110)}V${z(420)}H${own.eye_mm[0] - 260}`}
            fill="none"
            className="stroke-ink"
            strokeWidth={18}
          />
        </g>
      ))}
      {picture?.throw && projector && (
        <text
          x={Math.max(300, projector.at_mm[0] - 2900)}
          y={z(projector.at_mm[2]) - 200}
          fontSize={font * 0.92}
          className="fill-ink"
        >
          throw {lengthText(picture.throw.distance_m * 1000, feet)}, {picture.throw.ratio.toFixed(2)} (
          {picture.throw.ratios[0]?.toFixed(2)} to {picture.throw.ratios[1]?.toFixed(2)})
        </text>
      )}
      {shows && on && bottom !== undefined && picture && (
        <g>
          <line
            x1={on.at_mm[0] + 200}
            x2={on.at_mm[0] + 200}
            y1={bottom}
            y2={height}
            className="stroke-edge"
            strokeWidth={10}
          />
          <text
            x={on.at_mm[0] + 270}
            y={(bottom + height) / 2 + 40}
            fontSize={font * 0.92}
            className="fill-ink"
          >
            {lengthText(picture.bottom_m * 1000, feet)} to the bottom edge
          </text>
        </g>
      )}
      <ScaleBar x={length - 1500} y={height + 190} feet={feet} font={font} />
    </svg>
  );
}

/** The section for those who do not see it. */
export function sectionWords(
  picture: RoomPicture | undefined,
  name: (device: string) => string,
  feet: boolean,
): string {
  if (!picture) return "Section of the room; nothing shows a picture.";
  const size = `${lengthText(picture.size_m[0] * 1000, feet)} by ${lengthText(picture.size_m[1] * 1000, feet)}`;
  return `Section of the room: ${name(picture.on)} shows a picture of ${size}, its bottom edge ${lengthText(picture.bottom_m * 1000, feet)} above the floor.`;
}
