/** The frame around every screen at the desk: the mark, the day, people, the display, who is signed in. */
import { Modal, UnstyledButton } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { IconBulb, IconBulbOff, IconKeyboard, IconSearch } from "@tabler/icons-react";
import { useIsFetching, useIsMutating, useMutation, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate } from "@tanstack/react-router";
import { useMay } from "../../api/practice";
import { useMe } from "../../api/queries";
import { Anything, openAnything } from "../../shared/Anything";
import { useDim, useDimByDefault } from "../../shared/dim";
import { KeyList } from "../../shared/KeyList";
import { useKeys } from "../../shared/keys";
import { leave } from "../../treatment/session";
import css from "./Shell.module.css";

export function Shell() {
  const me = useMe();
  const fetching = useIsFetching() + useIsMutating();
  const { dim, toggle } = useDim();
  useDimByDefault(me.data?.theme);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [keysShown, keys] = useDisclosure();
  const reads = useMay("read_health");
  const manages = useMay("manage");
  const signOut = useMutation({
    mutationFn: () => leave(),
    onSettled: () => {
      queries.clear();
      void navigate({ to: "/sign-in", search: { next: undefined } });
    },
  });
  useKeys({ "?": keys.toggle, d: toggle });

  return (
    <div className={css.frame} aria-busy={fetching > 0}>
      <header className={css.bar}>
        <Link to="/" className={css.mark} aria-label="Acuthesis, the day">
          <img src="/mark.svg" alt="" width="26" height="26" /> Acuthesis
        </Link>
        <nav aria-label="Main" className={css.nav}>
          <Link to="/" activeOptions={{ exact: true }} search={{ on: undefined }}>
            Day
          </Link>
          <Link to="/week" search={{ of: undefined }}>
            Week
          </Link>
          <Link to="/people" activeOptions={{ exact: true }}>
            People
          </Link>
          {reads && <Link to="/follow-up">Follow-up</Link>}
          {reads && <Link to="/catalogue">Catalogue</Link>}
          {reads && <Link to="/safety">Safety</Link>}
          {manages ? <Link to="/practice">Practice</Link> : reads && <Link to="/audit">Audit</Link>}
        </nav>
        <div className={css.right}>
          <UnstyledButton className={css.icon} onClick={openAnything} aria-label="Search anything" title="Ctrl K">
            <IconSearch size={20} />
          </UnstyledButton>
          <UnstyledButton className={css.icon} onClick={keys.open} aria-label="Keys">
            <IconKeyboard size={20} />
          </UnstyledButton>
          <UnstyledButton className={css.icon} onClick={toggle} aria-pressed={dim} aria-label="Dim room">
            {dim ? <IconBulb size={20} /> : <IconBulbOff size={20} />}
          </UnstyledButton>
          <Link to="/account" className={css.who}>
            {me.data?.name}
          </Link>
          <UnstyledButton className={css.out} onClick={() => signOut.mutate()}>
            Sign out
          </UnstyledButton>
        </div>
      </header>
      <main className={css.main}>
        <Outlet />
      </main>
      <Anything />
      <Modal opened={keysShown} onClose={keys.close} title="Keys">
        <KeyList />
      </Modal>
    </div>
  );
}
