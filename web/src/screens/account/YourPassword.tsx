/** The password once more, for what should not happen at a screen that was left alone. */
import { PasswordInput } from "@mantine/core";

export function YourPassword({ value, onChange }: { value: string; onChange: (password: string) => void }) {
  return (
    <PasswordInput
      label="Your password"
      autoComplete="current-password"
      required
      withAsterisk={false}
      value={value}
      onChange={(event) => onChange(event.currentTarget.value)}
    />
  );
}
