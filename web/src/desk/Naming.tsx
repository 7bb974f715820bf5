import { useState } from "react";

import { Over } from "../shared/Over";
import { focusHere } from "../shared/keys";

/** A short question: a name, or whether it is meant. */
export default function Naming({
  title,
  says,
  value,
  does,
  onDo,
  close,
}: {
  title: string;
  says?: string;
  value?: string;
  does: string;
  onDo: (name: string) => Promise<unknown>;
  close: () => void;
}) {
  const [name, setName] = useState(value ?? ""),
    [wrong, setWrong] = useState("");
  return (
    <Over title={title} size="question" keyed={false} close={close}>
      <form
        className="mt-2 grid gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          onDo(name.trim())
            .then(close)
            .catch((x: Error) => setWrong(x.message));
        }}
      >
        {says && <p>{says}</p>}
        {value !== undefined && (
          <input
            ref={focusHere}
            className="field !font-sans"
            aria-label="Name"
            value={name}
            maxLength={200}
            required
            onChange={(e) => setName(e.target.value)}
          />
        )}
        {wrong && (
          <p role="alert" className="text-stop">
            {wrong}
          </p>
        )}
        <div className="flex gap-2">
          <button className="key-strong">{does}</button>
          <button type="button" className="key" onClick={close}>
            Cancel
          </button>
        </div>
      </form>
    </Over>
  );
}
