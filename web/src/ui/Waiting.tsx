/** What is shown until something has come, and why it has not. */
export function Waiting({ what, error }: { what: string; error: Error | null }) {
  return (
    <p role="status" className="p-6 text-muted">
      {error ? error.message : `Reading ${what} …`}
    </p>
  );
}
