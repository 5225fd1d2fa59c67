/** Who a person is and how they are reached; who is in charge of them. */
import { Button, NativeSelect, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { practitionersQuery, refresh } from "../../api/queries";
import { DayInput } from "../../shared/DayInput";
import desk from "../../shared/desk.module.css";
import { ErrorPanel } from "../../shared/parts";

type Contact = Schema["ContactDetails"];
type Text = "given_name" | "family_name" | "born" | "phone" | "email";
type Long = "address" | "doctor" | "emergency_contact" | "guardian";

export function ContactForm({ contact }: { contact: Contact }) {
  const [said, setSaid] = useState(contact);
  const books = useMay("book");
  const queries = useQueryClient();
  const colleagues = useQuery(practitionersQuery);
  const save = useMutation({
    mutationFn: () => {
      const { id, archived_at: _, ...body } = said;
      return take(api.PATCH("/api/people/{person_id}/contact", { params: { path: { person_id: id } }, body }));
    },
    onSuccess: async () => {
      await refresh(queries, ["person", contact.id]);
      await refresh(queries, ["people"]);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate();
  };
  const text = (name: Text, label: string, type?: string) => (
    <TextInput
      label={label}
      type={type}
      readOnly={!books}
      value={said[name]}
      onChange={(event) => setSaid({ ...said, [name]: event.currentTarget.value })}
    />
  );
  const long = (name: Long, label: string, description?: string) => (
    <Textarea
      label={label}
      description={description}
      autosize
      minRows={1}
      readOnly={!books}
      value={said[name]}
      onChange={(event) => setSaid({ ...said, [name]: event.currentTarget.value })}
    />
  );
  const young = new Date().getFullYear() - Number(said.born.slice(0, 4)) < 19;
  const treats = colleagues.data?.filter((one) => one.treats || one.id === said.in_charge) ?? [];
  return (
    <section className={desk.section}>
      <h2>Contact</h2>
      <form className={desk.form} onSubmit={submit}>
        <div className={desk.row}>
          {text("given_name", "First name")}
          {text("family_name", "Family name")}
          <DayInput
            label="Date of birth"
            required
            withAsterisk={false}
            readOnly={!books}
            defaultLevel="decade"
            value={said.born}
            onChange={(born) => setSaid({ ...said, born })}
          />
        </div>
        <div className={desk.row}>
          {text("phone", "Phone", "tel")}
          {text("email", "Email", "email")}
        </div>
        {long("address", "Address")}
        {long("emergency_contact", "Emergency contact", "Name and phone number")}
        {long("doctor", "Doctor")}
        {(young || said.guardian) && long("guardian", "Parent or guardian", "Consents with them or on their behalf")}
        {treats.length > 1 && (
          <NativeSelect
            label="Responsible practitioner"
            value={said.in_charge ?? ""}
            onChange={(event) => setSaid({ ...said, in_charge: event.currentTarget.value || null })}
            data={[{ value: "", label: "no one yet" }, ...treats.map((one) => ({ value: one.id, label: one.name }))]}
          />
        )}
        {save.isError && <ErrorPanel error={save.error} />}
        {books && (
          <div className={desk.buttons}>
            <Button type="submit" variant="default" loading={save.isPending}>
              Save contact
            </Button>
            {save.isSuccess && <span className={desk.note}>Saved.</span>}
          </div>
        )}
      </form>
    </section>
  );
}
