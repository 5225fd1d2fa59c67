/** Keep something under a name: one field and its button. */
import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import css from "./KeepAs.module.css";

type Props = {
  label: string;
  placeholder: string;
  button: string;
  loading: boolean;
  /** Keeps under the name; `done` empties the field. */
  onKeep: (name: string, done: () => void) => void;
};

export function KeepAs({ label, placeholder, button, loading, onKeep }: Props) {
  const [name, setName] = useState("");
  return (
    <form
      className={css.keep}
      onSubmit={(event) => {
        event.preventDefault();
        onKeep(name, () => setName(""));
      }}
    >
      <TextInput
        aria-label={label}
        placeholder={placeholder}
        value={name}
        onChange={(event) => setName(event.currentTarget.value)}
      />
      <Button type="submit" disabled={name.trim() === ""} loading={loading}>
        {button}
      </Button>
    </form>
  );
}
