import { lazy, Suspense, useState } from "react";

import { typing, useKeys } from "../shared/keys";

const KeysPage = lazy(() => import("./KeysPage"));

/** A question mark shows every key. */
export function KeysHelp() {
  const [open, setOpen] = useState(false);
  useKeys((e) => {
    if (e.key === "?" && !typing(e)) setOpen(true);
  });
  return <Suspense fallback={null}>{open && <KeysPage close={() => setOpen(false)} />}</Suspense>;
}
