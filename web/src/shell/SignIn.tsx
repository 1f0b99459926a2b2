import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, type ReactNode } from "react";
import { client, data, SIGN_IN } from "../api/client";
import { ProblemNote } from "../ui/Problem";

/** Asks for the password where the server wants one: on the network of the house. What was typed stays on the page below. */
export function SignIn({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const [needed, setNeeded] = useState(false);
  const [password, setPassword] = useState("");
  const [trouble, setTrouble] = useState<string>();
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    const ask = () => setNeeded(true);
    window.addEventListener(SIGN_IN, ask);
    return () => window.removeEventListener(SIGN_IN, ask);
  }, []);
  const enter = async () => {
    setBusy(true);
    setTrouble(undefined);
    try {
      await data(client.POST("/api/session", { body: { password } }));
      setPassword("");
      setNeeded(false);
      await queries.resetQueries();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : "It did not work. Try again.");
    }
    setBusy(false);
  };
  return (
    <>
      {children}
      {needed && (
        <div
          role="dialog"
          aria-modal="true"
          aria-label="Sign in"
          className="fixed inset-0 z-50 grid place-items-center bg-paper p-4"
        >
          <form
            className="w-full max-w-sm"
            onSubmit={(event) => {
              event.preventDefault();
              void enter();
            }}
          >
            <h1 className="text-[22px]">Kestrel Dune</h1>
            <p className="mt-1 text-muted">
              This is the workbench of a house, reached over its network. Sign in with its password.
            </p>
            <label className="mt-3 block">
              <span className="label">Password</span>
              <input
                className="field min-h-11"
                type="password"
                autoComplete="current-password"
                autoFocus
                value={password}
                onChange={(event) => setPassword(event.target.value)}
              />
            </label>
            <button type="submit" className="btn btn-main mt-3 min-h-11" disabled={!password || busy}>
              {busy ? "One moment …" : "Sign in"}
            </button>
            {trouble && <ProblemNote text={trouble} />}
          </form>
        </div>
      )}
    </>
  );
}
