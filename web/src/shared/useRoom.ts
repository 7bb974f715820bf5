import { useEffect, useRef, useState } from "react";

import { type XY } from "../api/model";

/** The pixels that an element has, kept while it is resized: put ``box`` on the element. */
export function useRoom(first: XY = [0, 0]) {
  const box = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState<XY>(first);
  useEffect(() => {
    const el = box.current;
    if (!el) return;
    const w = new ResizeObserver(() => setRoom([el.clientWidth, el.clientHeight]));
    w.observe(el);
    return () => w.disconnect();
  }, []);
  return { box, room };
}
