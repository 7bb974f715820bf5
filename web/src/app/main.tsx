import "@fontsource/barlow-semi-condensed/latin-400.css";
import "@fontsource/barlow-semi-condensed/latin-500.css";
import "@fontsource/barlow-semi-condensed/latin-600.css";
import "@fontsource/spline-sans-mono/latin-400.css";
import "@fontsource/spline-sans-mono/latin-500.css";
import "../index.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";

import { Library } from "../library/Library";
import { UnitProvider } from "../shared/lengths";
import { SurfacingScreen } from "../surfacing/Surfacing";
import { JobScreen } from "./JobScreen";
import { Jobs } from "./Shop";

const client = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false, staleTime: 5_000 } },
});

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <UnitProvider>
        <BrowserRouter>
          <Routes>
            <Route path="/" element={<Jobs />} />
            <Route path="/job/:id/:station?" element={<JobScreen />} />
            <Route path="/library/:shelf?" element={<Library />} />
            <Route path="/surfacing/:board?" element={<SurfacingScreen />} />
          </Routes>
        </BrowserRouter>
      </UnitProvider>
    </QueryClientProvider>
  </StrictMode>,
);
