import { Link } from "react-router";

/** The way back to the shop's first page. */
export const Home = () => (
  <Link
    to="/"
    className="num inline-flex min-h-6 items-center text-head font-medium tracking-tight"
    aria-label="venzo, all jobs"
  >
    venzo
  </Link>
);
