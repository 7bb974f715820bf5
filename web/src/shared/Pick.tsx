import { PickLong } from "./PickLong";
import { ShortPick } from "./ShortPick";
import type { PickProps } from "./picks";

/** From so many options on, one types to find. */
const MANY = 10;

/** One of several: a list that opens, with search where it is long. */
export function Pick<V extends string>(props: PickProps<V>) {
  const { options, onPick, look } = props;
  const pick = (v: string) => {
    const found = options.find(([o]) => o === v);
    if (found) onPick(found[0]);
  };
  if (options.length < MANY || look === "key") return <ShortPick {...props} />;
  return <PickLong {...props} onPick={pick} />;
}
