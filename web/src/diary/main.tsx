/** Starts the diary: a page of its own for a person's phone, small, and at home without a network. */
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "../shared/tokens.css";
import "../shared/base.css";
import { createRoot } from "react-dom/client";
import { DiaryPage } from "./DiaryPage";

const dark = window.matchMedia("(prefers-color-scheme: dark)");
const dim = () => document.documentElement.setAttribute("data-mantine-color-scheme", dark.matches ? "dark" : "light");
dim();
dark.addEventListener("change", dim);

if ("serviceWorker" in navigator && import.meta.env.PROD)
  void navigator.serviceWorker.register("/diary-worker.js", { scope: "/diary" });

const root = document.getElementById("root");
if (root) createRoot(root).render(<DiaryPage />);
