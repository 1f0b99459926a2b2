import { lazy, Suspense } from "react";
import { Navigate, Route, Routes } from "react-router";
import { SignIn } from "./shell/SignIn";

// A phone loads nothing of the workbench, and the workbench nothing of a phone.
const LivePage = lazy(() => import("./live/LivePage").then((part) => ({ default: part.LivePage })));
const ShelfPage = lazy(() => import("./shelf/ShelfPage").then((part) => ({ default: part.ShelfPage })));
const Room = lazy(() => import("./shell/Room").then((part) => ({ default: part.Room })));

/** Everything that the page shows, by address. */
export function App() {
  return (
    <SignIn>
      <Suspense fallback={<p className="p-6">One moment …</p>}>
        <Routes>
          <Route path="/" element={<ShelfPage />} />
          <Route path="/houses/:house" element={<Room />} />
          <Route path="/houses/:house/rooms/:room" element={<Room />} />
          <Route path="/houses/:house/rooms/:room/:stage" element={<Room />} />
          <Route path="/s/:token" element={<LivePage />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
    </SignIn>
  );
}
