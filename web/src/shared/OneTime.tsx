/** An address that is shown once, to be passed on. */
import { Button, CopyButton } from "@mantine/core";
import desk from "./desk.module.css";

export function OneTime({ says, address }: { says: string; address: string }) {
  return (
    <div className={desk.link} role="status">
      <p>{says}</p>
      <code>{address}</code>
      <div className={desk.buttons}>
        <CopyButton value={address}>
          {({ copied, copy }) => (
            <Button variant="default" onClick={copy}>
              {copied ? "Copied" : "Copy"}
            </Button>
          )}
        </CopyButton>
      </div>
    </div>
  );
}
