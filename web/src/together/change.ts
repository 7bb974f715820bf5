import type { components } from "../api/schema";

type S = components["schemas"];

/** What changes on a table: sheets laid, moved or taken off, and where Z 0 is taken. */
export type ChangeRun = Partial<Omit<S["ChangeRun"], "kind">>;
