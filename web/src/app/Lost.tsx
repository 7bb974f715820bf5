import { Link } from "react-router";

import { ApiError } from "../api/client";

/** Nothing is there, or nobody answers: what happened, and the way on. */
export function Lost({ error, again, over }: { error: Error; again?: () => void; over?: boolean }) {
  const silent = error instanceof ApiError && error.status === 0;
  const gone = error instanceof ApiError && error.status === 404;
  return (
    <main className={over ? "absolute inset-0 z-50 bg-board p-10" : "p-10"}>
      <h1 className="text-huge font-semibold">
        {silent ? "Venzo does not answer" : gone ? "There is nothing here" : "This could not be read"}
      </h1>
      <p role="alert" className="mt-2 max-w-xl text-head text-stop">
        {error.message}
      </p>
      <p className="mt-2 max-w-xl text-quiet">
        {silent
          ? "Start it again where it ran; every edit that was acknowledged is kept."
          : "The jobs of the shop are on its first page."}
      </p>
      <p className="mt-4 flex gap-2">
        {again && (
          <button className="key-strong" onClick={again}>
            Try again
          </button>
        )}
        <Link className="key" to="/">
          All jobs
        </Link>
      </p>
    </main>
  );
}
