import "@fontsource/barlow-semi-condensed/latin-400.css";
import "@fontsource/barlow-semi-condensed/latin-500.css";
import "@fontsource/barlow-semi-condensed/latin-600.css";
import "@fontsource/spline-sans-mono/latin-400.css";
import "@fontsource/spline-sans-mono/latin-500.css";
import "../index.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes, useLocation } from "react-router";

import { ApiError } from "../api/client";
import { ReckoningsAnywhere } from "../reckonings/anywhere";
import { UnitProvider } from "../shared/lengths";
import { KeysHelp } from "./KeysHelp";
import { Lost } from "./Lost";

const Shop = lazy(() => import("../desk/Shop").then((m) => ({ default: m.Shop })));
const JobScreen = lazy(() => import("./JobScreen").then((m) => ({ default: m.JobScreen })));
const Library = lazy(() => import("../library/Library").then((m) => ({ default: m.Library })));
const Reckonings = lazy(() =>
  import("../reckonings/ReckoningsPage").then((m) => ({ default: m.ReckoningsPage })),
);
const TableRun = lazy(() => import("../together/TableRun").then((m) => ({ default: m.TableRunScreen })));
const RackBench = lazy(() => import("../rack/RackBench").then((m) => ({ default: m.RackBench })));
const Surfacing = lazy(() => import("../surfacing/Surfacing").then((m) => ({ default: m.SurfacingScreen })));

const client = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false, staleTime: 5_000 } },
});

function Nowhere() {
  const { pathname } = useLocation();
  return <Lost error={new ApiError(404, `No page of Venzo has the address ${pathname.slice(0, 120)}.`)} />;
}

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <UnitProvider>
        <BrowserRouter>
          <ReckoningsAnywhere>
            <Suspense fallback={<main className="p-10" role="status" />}>
              <Routes>
                <Route path="/" element={<Shop />} />
                <Route path="/job/:id/:station?" element={<JobScreen />} />
                <Route path="/library/:shelf?" element={<Library />} />
                <Route path="/surfacing/:board?" element={<Surfacing />} />
                <Route path="/rack" element={<RackBench />} />
                <Route path="/table/:id" element={<TableRun />} />
                <Route path="/reckon/:name?" element={<Reckonings />} />
                <Route path="*" element={<Nowhere />} />
              </Routes>
            </Suspense>
            <KeysHelp />
          </ReckoningsAnywhere>
        </BrowserRouter>
      </UnitProvider>
    </QueryClientProvider>
  </StrictMode>,
);
