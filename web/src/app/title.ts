import { useEffect } from "react";

/** The browser's tab tells what is looked at. */
export function useTitle(...words: (string | undefined)[]) {
  const title = [...words.filter(Boolean), "venzo"].join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}
