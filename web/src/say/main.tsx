/** Starts the page on which whoever lies on the table says how it is: a page of its own, on a phone or a second screen. */
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "../shared/tokens.css";
import "../shared/base.css";
import { createRoot } from "react-dom/client";
import { SayPage } from "./SayPage";

const dark = window.matchMedia("(prefers-color-scheme: dark)");
const dim = () => document.documentElement.setAttribute("data-mantine-color-scheme", dark.matches ? "dark" : "light");
dim();
dark.addEventListener("change", dim);

const root = document.getElementById("root");
if (root) createRoot(root).render(<SayPage />);
