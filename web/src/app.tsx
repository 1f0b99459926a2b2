import { lazy, Suspense } from "react";
import { Navigate, Route, Routes } from "react-router";
import { useHouses } from "./api/queries";
import { Waiting } from "./ui/Waiting";

// A phone loads nothing of the workbench, and the workbench nothing of a phone.
const LivePage = lazy(() => import("./live/LivePage").then((part) => ({ default: part.LivePage })));
const Room = lazy(() => import("./shell/Room").then((part) => ({ default: part.Room })));

/** The first room of the first house; where there is no house, how to get one. */
function Start() {
  const houses = useHouses();
  const first = houses.data?.[0];
  if (first) return <Navigate to={`/houses/${first.id}`} replace />;
  if (houses.isSuccess) {
    return (
      <main className="mx-auto mt-24 max-w-xl px-4">
        <h1 className="text-xl">No house yet</h1>
        <p className="mt-2">
          Start the application with <code className="font-mono">./kestrel demo</code> to load the demo house.
        </p>
      </main>
    );
  }
  return <Waiting what="the list of houses" error={houses.error} />;
}

/** Everything that the page shows, by address. */
export function App() {
  return (
    <Suspense fallback={<p className="p-6">One moment …</p>}>
      <Routes>
        <Route path="/" element={<Start />} />
        <Route path="/houses/:house" element={<Room />} />
        <Route path="/houses/:house/rooms/:room" element={<Room />} />
        <Route path="/houses/:house/rooms/:room/:stage" element={<Room />} />
        <Route path="/s/:token" element={<LivePage />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
    </Suspense>
  );
}
