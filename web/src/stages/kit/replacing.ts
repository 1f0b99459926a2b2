import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, data, surely } from "../../api/client";
import { takeOver } from "../../api/queries";
import type { MappedPart, ModelPart, Replacing, ReplacingView } from "../../api/types";

/** What another model in the place of a device would do; nothing is changed by asking. */
export function useReplacing(house: string, device: string, asked: Replacing | undefined, revision: number) {
  return useQuery({
    queryKey: ["house", house, "replacing", device, asked, revision] as const,
    queryFn: () =>
      data(
        client.POST("/api/houses/{house}/devices/{device}/replacement/preview", {
          params: { path: { house, device } },
          body: asked as Replacing,
        }),
      ),
    enabled: asked !== undefined,
    placeholderData: (before, query) => {
      const known = query?.queryKey[4];
      return known?.model === asked?.model ? before : undefined;
    },
  });
}

/** What it changes in plans and verdicts. */
export function useReplacingEffect(
  house: string,
  device: string,
  asked: Replacing | undefined,
  revision: number,
) {
  return useQuery({
    queryKey: ["house", house, "replacing effect", device, asked, revision] as const,
    queryFn: ({ signal }) =>
      data(
        client.POST("/api/houses/{house}/devices/{device}/replacement/effect", {
          params: { path: { house, device } },
          body: asked as Replacing,
          signal,
        }),
      ),
    enabled: asked !== undefined,
  });
}

/** Puts another model in the place of that of a device. */
export function useReplace(house: string, device: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Replacing) =>
      surely((headers) =>
        data(
          client.POST("/api/houses/{house}/devices/{device}/replacement", {
            params: { path: { house, device } },
            body,
            headers,
          }),
        ),
      ),
    onSuccess: (saved) => takeOver(queries, saved.changed),
  });
}

/** Keys and sockets that something uses: those that lose their place or get another name, and those that stay as they were. */
export function usedParts(view: ReplacingView): { changed: MappedPart[]; same: MappedPart[] } {
  const used = view.parts.filter((part) => part.used_by.length > 0);
  const becomes = (part: MappedPart) => view.choices.find((choice) => choice.id === part.to)?.name;
  const stays = (part: MappedPart) => becomes(part)?.toLowerCase() === part.name.toLowerCase();
  const lostFirst = (one: MappedPart, other: MappedPart) =>
    Number(Boolean(one.to)) - Number(Boolean(other.to));
  return { changed: used.filter((part) => !stays(part)).sort(lostFirst), same: used.filter(stays) };
}

/** What can take the place of a key or a socket. */
export function choicesFor(view: ReplacingView, part: MappedPart): ModelPart[] {
  return view.choices.filter((choice) => choice.what === part.what);
}
