import { useState } from "react";

import { Frame } from "../../job/Frame";
import { JobTable } from "../../job/JobTable";
import { useJobView } from "../../job/view";
import { SlatsLayer } from "../../kerf/KerfLayer";
import { useKerfSheet } from "../../kerf/useKerf";
import { type Sketch, StockDocket } from "./StockStation";

/** What lies on the table, and where. */
export default function StockAndTable() {
  const { job, setup, edits } = useJobView();
  const [sketch, setSketch] = useState<Sketch>(null),
    [shown, setShown] = useState<string | null>(null);
  const { sheet: kerfs } = useKerfSheet();
  const at = sketch?.stock ?? setup.stock.find((s) => s.id === shown)?.id;
  return (
    <Frame
      board={
        <JobTable
          stock={at}
          layer={(k) => kerfs && <SlatsLayer sheet={kerfs} k={k} />}
          sketch={sketch?.points}
          onSketch={(p) => {
            if (sketch?.what === "zero") {
              const what = setup.datum.kind === "mark" ? setup.datum.what : "pencilled point";
              edits.run({ kind: "set-setup", setup: setup.id, datum: { kind: "mark", what, at: p } });
              setSketch(null);
            } else if (sketch) setSketch({ ...sketch, points: [...sketch.points, p] });
          }}
        />
      }
      docket={
        <StockDocket
          job={job}
          setup={setup}
          edits={edits}
          sketch={sketch}
          setSketch={setSketch}
          onShow={setShown}
        />
      }
    />
  );
}
