import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, data, surely } from "../api/client";
import { takeOver } from "../api/queries";
import type { StartingPoint } from "../api/types";

/** What is said of each room of a house; asked again when the house has changed. */
export function useSummary(house: string, revision: number) {
  return useQuery({
    queryKey: ["house", house, "summary", revision] as const,
    queryFn: () => data(client.GET("/api/houses/{house}/summary", { params: { path: { house } } })),
    placeholderData: (before) => before,
  });
}

/** What goes with a room. */
export function useWhatGoes(house: string, room: string, revision: number) {
  return useQuery({
    queryKey: ["house", house, "removal", room, revision] as const,
    queryFn: () =>
      data(client.GET("/api/houses/{house}/rooms/{room}/removal", { params: { path: { house, room } } })),
  });
}

/** Removes a room with all that is in it. */
export function useRemoveRoom(house: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (room: string) =>
      surely((headers) =>
        data(
          client.DELETE("/api/houses/{house}/rooms/{room}", { params: { path: { house, room } }, headers }),
        ),
      ),
    onSuccess: (saved) => takeOver(queries, saved.changed),
  });
}

/** Adds a room with what it begins with. */
export function useAddRoom(house: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; start: StartingPoint }) =>
      surely((headers) =>
        data(client.POST("/api/houses/{house}/rooms", { params: { path: { house } }, body, headers })),
      ),
    onSuccess: (saved) => takeOver(queries, saved.changed),
  });
}
