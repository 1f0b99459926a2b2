import { useQuery } from "@tanstack/react-query";
import { client, data } from "../../../api/client";
import type { RoomPicture } from "../../../api/types";
import { useRoom } from "../../../shell/context";

/** The path of the room that is open. */
function usePath() {
  const { house, room } = useRoom();
  return { path: { house: house.house.id, room } };
}

/** What a gateway reaches, with its field for one device. Asked again after every edit. */
export function useReach(gateway: string | undefined, device: string | undefined, down: boolean) {
  const params = usePath();
  const { house } = useRoom();
  return useQuery({
    queryKey: ["house", params.path.house, "reach", params.path.room, gateway, device, down, house.revision],
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/reach", {
          params: { ...params, query: { gateway: gateway ?? "", ...(device && { device }), down } },
        }),
      ),
    enabled: gateway !== undefined,
    placeholderData: (before) => before,
  });
}

/** The pictures of the room, as its seats see them. */
export function usePictures(bottomMm: number | undefined, look: string | undefined, daylight: boolean) {
  const params = usePath();
  const { house } = useRoom();
  return useQuery({
    queryKey: [
      "house",
      params.path.house,
      "picture",
      params.path.room,
      bottomMm,
      look,
      daylight,
      house.revision,
    ],
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/picture", {
          params: {
            ...params,
            query: {
              ...(bottomMm !== undefined && { bottom_mm: bottomMm }),
              ...(look && { look }),
              daylight,
            },
          },
        }),
      ) as Promise<RoomPicture[]>,
    placeholderData: (before) => before,
  });
}

/** How long the cables of the room are. */
export function useCables() {
  const params = usePath();
  const { house } = useRoom();
  return useQuery({
    queryKey: ["house", params.path.house, "cables", params.path.room, house.revision],
    queryFn: () => data(client.GET("/api/houses/{house}/rooms/{room}/cables", { params })),
    placeholderData: (before) => before,
  });
}
