/** Where the next step of a visit leads. The core decides the step; this only knows the address. */
import type { Schema } from "../api/client";

type Station = Schema["NextStep"]["station"];

export const stepPath = (station: Station, personId: string, visitId: string): string => {
  const person = `/people/${personId}`;
  switch (station) {
    case "screening":
      return `${person}/story`;
    case "complaints":
    case "rate_before":
    case "rate_after":
      return `${person}/complaints`;
    case "measures":
      return `${person}/measures`;
    case "compose":
      return `${person}/compose`;
    case "treat":
      return `/treat/${visitId}`;
    case "take_away":
      return `${person}/take-away`;
  }
};
