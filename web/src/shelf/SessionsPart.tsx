import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, data, SIGN_IN } from "../api/client";
import { dayTime } from "../ui/when";

/** Who is signed in from the network of the house; nothing where nobody ever was. */
export function SessionsPart() {
  const queries = useQueryClient();
  const key = ["session"];
  const own = useQuery({ queryKey: key, queryFn: () => data(client.GET("/api/session")) });
  const end = useMutation({
    mutationFn: (id: string) => data(client.DELETE("/api/sessions/{id}", { params: { path: { id } } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: key }),
  });
  const out = useMutation({
    mutationFn: () => data(client.DELETE("/api/session")),
    onSuccess: () => window.dispatchEvent(new Event(SIGN_IN)),
  });
  if (!own.data || own.data.sessions.length === 0) return null;
  return (
    <section aria-label="Signed in" className="mt-8">
      <h2 className="text-[16px]">Signed in from the network</h2>
      <ul>
        {own.data.sessions.map((one) => (
          <li key={one.id} className="flex flex-wrap items-center gap-x-3 border-b border-rule py-1">
            <span className="min-w-0 truncate">{one.label}</span>
            <span className="text-muted">
              since {dayTime(one.made_at)}, used {dayTime(one.used_at)}
            </span>
            <button type="button" className="link ml-auto" onClick={() => end.mutate(one.id)}>
              End it
            </button>
          </li>
        ))}
      </ul>
      {own.data.signed_in && (
        <button type="button" className="btn mt-2" onClick={() => out.mutate()}>
          Sign out here
        </button>
      )}
    </section>
  );
}
