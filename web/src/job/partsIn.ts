import type { Feature, Job, Part, Setup } from "../api/model";

/** The setup whose parts are cut: of turned sheets the first face's, they are the same parts. */
export const cutsPartsOf = (setup: Setup) => setup.turned?.first ?? setup.id;

/** Do stock and layout of a setup follow from another, of which it is a turn? */
export const follows = (setup: Setup) => (setup.turned?.number ?? 1) > 1;

/** Do pieces lie here that are turned one by one into a jig? */
export const inJig = (setup: Setup) => follows(setup) && setup.turned?.turn.registration.kind === "jig";

/** The parts that a setup cuts. */
export const partsIn = (job: Job, setup: Setup): Part[] =>
  job.parts.filter((p) => p.setup === cutsPartsOf(setup));

/** Is a feature cut into the face that is up? */
export const isUp = (setup: Setup, f: Feature) =>
  (f.face ?? "front") === (setup.turned?.number === 2 ? "back" : "front");
