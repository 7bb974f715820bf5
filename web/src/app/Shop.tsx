import { lazy, Suspense } from "react";
import { Link } from "react-router";

import { useJobs, useLibrary } from "../api/queries";
import { UnitSwitch } from "../shared/lengths";
import { Runs } from "../together/Runs";
import { useTitle } from "./title";

const FirstStart = lazy(() => import("./FirstStart").then((m) => ({ default: m.FirstStart })));
const NewJob = lazy(() => import("./NewJob").then((m) => ({ default: m.NewJob })));

/** The shop's jobs, and the first step of a new one. */
export function Shop() {
  const jobs = useJobs("parts"),
    library = useLibrary().data;

  useTitle("jobs");
  const fresh = library?.machine.length === 0;
  return (
    <main className="mx-auto grid h-full max-w-5xl grid-rows-[auto_1fr] px-6 py-10 max-md:px-3 max-md:py-4">
      <header className="mb-8 flex flex-wrap items-baseline gap-x-6 gap-y-2">
        <h1 className="num text-huge font-medium tracking-tight">venzo</h1>
        <p className="text-quiet">from drawings to nested, held and proven programs</p>
        <span className="ml-auto flex gap-2">
          <UnitSwitch />
          <Link to="/reckon" className="key">
            Reckonings
          </Link>
          <Link to="/surfacing" className="key">
            Surfacing bench
          </Link>
          <Link to="/library" className="key">
            Shop library
          </Link>
        </span>
      </header>
      <div
        className={`grid content-start gap-8 ${fresh ? "md:grid-cols-[1fr_2.6fr]" : "md:grid-cols-[1.4fr_1fr]"}`}
      >
        <section aria-label="Jobs">
          <h2 className="mb-2 text-figure font-semibold">On the bench</h2>
          {jobs.isLoading && <p role="status">reading ...</p>}
          {jobs.error && (
            <p role="alert" className="text-stop">
              {jobs.error.message}
            </p>
          )}
          {jobs.data?.length === 0 && (
            <p className="text-quiet">
              No jobs yet.{" "}
              {library?.machine.length
                ? "Start one at the right: name it, choose machine and material, then drop its drawings."
                : "First Venzo asks for your machine and what you cut, at the right. Nothing is in the shop library yet but what you put there."}
            </p>
          )}
          <ul>
            {jobs.data?.map((j) => (
              <li key={j.id} className="mb-2">
                <Link
                  to={`/job/${j.id}/nest`}
                  className="flex flex-wrap items-baseline justify-between gap-x-3 border border-line bg-paper px-4 py-3 hover:border-ink"
                >
                  <span className="text-head font-medium">{j.name}</span>
                  <span className="label">
                    revision <span className="num">{j.revision}</span>, {j.changed.replace("T", " ")} UTC
                  </span>
                </Link>
              </li>
            ))}
          </ul>
          {(jobs.data?.length ?? 0) > 0 && <Runs />}
        </section>
        {fresh ? (
          <Suspense fallback={null}>
            <FirstStart known={library!.known} />
          </Suspense>
        ) : (
          <Suspense fallback={<section aria-label="New job" />}>
            {library && <NewJob library={library} />}
          </Suspense>
        )}
      </div>
    </main>
  );
}
