/** A person's file: contact, consents, letters; put away, joined with a second record, erased. */
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useMay } from "../../api/practice";
import { contactQuery } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { ContactForm } from "../person/ContactForm";
import { Archive } from "./Archive";
import { Consents } from "./Consents";
import { Erase } from "./Erase";
import { Join } from "./Join";
import { Letters } from "./Letters";

export function FileScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const contact = useQuery(contactQuery(personId));
  const writes = useMay("write_health");
  if (contact.isPending) return <Waiting for="Loading details" />;
  if (contact.isError) return <ErrorPanel error={contact.error} retry={() => void contact.refetch()} />;
  return (
    <div className={desk.page}>
      <div className={desk.two}>
        <ContactForm contact={contact.data} key={contact.data.version} />
        <Consents personId={personId} born={contact.data.born} />
        <Letters personId={personId} />
        {writes && (
          <section className={desk.section}>
            <h2>This record</h2>
            <Archive contact={contact.data} />
            <Join personId={personId} name={contact.data.given_name} />
            <Erase personId={personId} name={contact.data.given_name} />
          </section>
        )}
      </div>
    </div>
  );
}
