/** What composing works with: complaints, schools, doses, techniques; and the words of letters; the practice's own changes are marked. */
import { TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { catalogueQuery } from "../../api/queries";
import { ErrorPanel, Waiting } from "../../shared/parts";
import css from "./CatalogueScreen.module.css";
import { Complaints } from "./Complaints";
import { Doses, Techniques } from "./Doses";
import { LetterWords } from "./LetterWords";
import { Schools } from "./Schools";
import { useLayer } from "./useLayer";

export const SHELVES = {
  complaints: "Complaints",
  schools: "Schools",
  doses: "Doses",
  techniques: "Techniques",
  letters: "Letters",
} as const;
export type Shelf = keyof typeof SHELVES;
const HINTS: Record<Shelf, string> = {
  complaints: "headache, knee, SP6",
  schools: "ear, quiet, level",
  doses: "circles, 45 s",
  techniques: "calf, stretch",
  letters: "doctor",
};

export function CatalogueScreen() {
  const { shelf = "complaints" } = useSearch({ from: "/inside/catalogue" });
  const catalogue = useQuery(catalogueQuery);
  const layer = useLayer();
  const [wanted, setWanted] = useState("");
  const failure = catalogue.error ?? layer.query.error;
  if (failure) return <ErrorPanel error={failure} retry={() => void catalogue.refetch()} />;
  if (!catalogue.data || !layer.query.data) return <Waiting for="Loading the catalogue" />;
  const match = (...texts: string[]) => texts.join(" ").toLowerCase().includes(wanted.trim().toLowerCase());
  const book = catalogue.data;
  return (
    <div className={css.page}>
      <div className={css.head}>
        <h1>Catalogue</h1>
        <nav aria-label="Catalogue">
          {(Object.keys(SHELVES) as Shelf[]).map((one) => (
            <Link key={one} to="/catalogue" search={{ shelf: one }} data-chosen={one === shelf || undefined}>
              {SHELVES[one]}
            </Link>
          ))}
        </nav>
        <TextInput
          aria-label="Filter"
          placeholder={HINTS[shelf]}
          value={wanted}
          onChange={(event) => setWanted(event.currentTarget.value)}
        />
      </div>
      {layer.failure && <ErrorPanel error={layer.failure} />}
      {shelf === "complaints" && <Complaints pages={book.complaints} layer={layer} match={match} />}
      {shelf === "schools" && <Schools pages={book.schools} doses={book.doses} layer={layer} match={match} />}
      {shelf === "doses" && <Doses pages={book.doses} layer={layer} match={match} />}
      {shelf === "techniques" && <Techniques rows={book.techniques} match={match} />}
      {shelf === "letters" && <LetterWords match={match} />}
      <p className={css.hint}>
        Traditional use, as taught; evidence is shown where there is any. Entries changed by this practice are marked
        “customised” and can be restored. Safety rules can be added but never loosened.
      </p>
    </div>
  );
}
