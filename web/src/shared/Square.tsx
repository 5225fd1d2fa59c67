/** An address as a square to photograph; and that it leads nowhere from elsewhere, where that is so. */
import desk from "./desk.module.css";
import css from "./parts.module.css";

const THIS_MACHINE = /^https?:\/\/(127\.|localhost|\[::1\])/;

export function OnThisMachine({ address }: { address: string }) {
  if (!THIS_MACHINE.test(address)) return null;
  return (
    <p className={desk.note}>
      This address works on this computer only. For phones, run the practice under a host name with HTTPS first (see the
      guide to running it).
    </p>
  );
}

export function Square({ svg, label }: { svg: string; label: string }) {
  return (
    <div
      className={css.square}
      role="img"
      aria-label={label}
      // biome-ignore lint/security/noDangerouslySetInnerHtml: the server drew it from the address that it stands for
      dangerouslySetInnerHTML={{ __html: svg }}
    />
  );
}
