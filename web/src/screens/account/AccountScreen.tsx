/** One's own account: name, how one works, password, second factor, open sessions, calendar, leaving. */
import { Button, Checkbox, NumberInput, PasswordInput, Select, Switch, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { roleMeans, roleWords, sessionsQuery, useMay } from "../../api/practice";
import { catalogueQuery, meQuery, practitionersQuery, useMe } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { languages, type NameLanguage } from "../../shared/languages";
import { OneTime } from "../../shared/OneTime";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { clock, dayOf } from "../../shared/words";
import { SecondFactor } from "./SecondFactor";
import { Passkeys, Pin, SecurityEvents } from "./Security";
import { YourPassword } from "./YourPassword";

type Me = Schema["Me"];

export function AccountScreen() {
  const me = useMe();
  if (!me.data) return <Waiting for="Loading your account" />;
  const health = me.data.powers.includes("write_health");
  const books = me.data.powers.includes("book");
  return (
    <div className={desk.page}>
      <div className={desk.head}>
        <div>
          <h1>Your account</h1>
          <p className={desk.note}>
            {me.data.email} · {roleWords[me.data.role]}, {roleMeans[me.data.role]} · {me.data.practice}
          </p>
        </div>
      </div>
      {me.data.must_enrol && (
        <p role="alert">
          <b>{me.data.practice} requires two-step verification.</b> Set it up here to continue: an app or a passkey.
        </p>
      )}
      <div className={desk.two}>
        <div className={desk.form}>
          <SecondFactor me={me.data} />
          <Passkeys me={me.data} />
          {!me.data.must_enrol && (
            <>
              <Pin me={me.data} />
              <Password />
              <Sessions />
              <SecurityEvents />
            </>
          )}
        </div>
        {!me.data.must_enrol && (
          <div className={desk.form}>
            <HowIWork me={me.data} />
            {health && <ThisDevice />}
            {books && <CalendarFeed me={me.data} />}
            <Leave />
          </div>
        )}
      </div>
    </div>
  );
}

function ThisDevice() {
  return (
    <section className={desk.section}>
      <h2>This device in the treatment room</h2>
      <p className={desk.note}>Sound, voice, automatic advance, and foot switch settings.</p>
      <div className={desk.buttons}>
        <Button component={Link} to="/hands-free" variant="default">
          Hands-free treatment
        </Button>
      </div>
    </section>
  );
}

function HowIWork({ me }: { me: Me }) {
  const queries = useQueryClient();
  const health = useMay("write_health");
  const catalogue = useQuery({ ...catalogueQuery, enabled: health });
  const change = useMutation({
    mutationFn: (body: Schema["MyChange"]) => take(api.PATCH("/api/me", { body })),
    onSuccess: (now) => queries.setQueryData(["me"], now),
  });
  const [name, setName] = useState(me.name);
  const leaveName = () => name.trim() && name !== me.name && change.mutate({ name });
  return (
    <section className={desk.section}>
      <h2>Working preferences</h2>
      <TextInput label="Your name" value={name} onChange={(e) => setName(e.currentTarget.value)} onBlur={leaveName} />
      <NumberInput
        label="Usual visit length in minutes"
        min={3}
        max={240}
        clampBehavior="strict"
        defaultValue={me.usual_minutes}
        onBlur={(event) => {
          const minutes = Number(event.currentTarget.value);
          if (minutes >= 3 && minutes !== me.usual_minutes) change.mutate({ usual_minutes: minutes });
        }}
      />
      {health && (
        <Checkbox.Group
          label="Schools you use"
          description="None ticked: all are offered equally."
          value={[...me.schools]}
          onChange={(schools) => change.mutate({ schools })}
        >
          {catalogue.data?.schools.map((school) => (
            <Checkbox key={school.school.id} value={school.school.id} label={school.school.name} mt={6} />
          ))}
        </Checkbox.Group>
      )}
      <Checkbox.Group
        label="Point names"
        value={[...me.name_languages]}
        onChange={(chosen) => chosen.length && change.mutate({ name_languages: chosen as NameLanguage[] })}
      >
        {languages.map(([id, label]) => (
          <Checkbox key={id} value={id} label={label} mt={6} />
        ))}
      </Checkbox.Group>
      <Switch
        label="Use the dim-room display by default"
        checked={me.theme === "dim"}
        onChange={(event) => change.mutate({ theme: event.currentTarget.checked ? "dim" : "auto" })}
      />
      <NumberInput
        label="Lock the screen when idle for"
        description="1 to 120 minutes. Never during a session."
        min={1}
        max={120}
        clampBehavior="strict"
        defaultValue={me.lock_minutes}
        onBlur={(event) => {
          const minutes = Number(event.currentTarget.value);
          if (minutes >= 1 && minutes !== me.lock_minutes) change.mutate({ lock_minutes: minutes });
        }}
      />
      {change.isError && <ErrorPanel error={change.error} />}
    </section>
  );
}

function Password() {
  const [password, setPassword] = useState("");
  const [next, setNext] = useState("");
  const queries = useQueryClient();
  const change = useMutation({
    mutationFn: () => take(api.POST("/api/me/password", { body: { password, new_password: next } })),
    onSuccess: () => {
      setPassword("");
      setNext("");
      notifications.show({ message: "Password changed. Your other devices are signed out." });
      void queries.invalidateQueries({ queryKey: ["me", "sessions"] });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    change.mutate();
  };
  return (
    <section className={desk.section}>
      <h2>Password</h2>
      <form className={desk.form} onSubmit={submit}>
        <PasswordInput
          label="Current password"
          autoComplete="current-password"
          required
          withAsterisk={false}
          value={password}
          onChange={(event) => setPassword(event.currentTarget.value)}
        />
        <PasswordInput
          label="New password"
          description="At least 10 characters: three or four unrelated words"
          autoComplete="new-password"
          required
          withAsterisk={false}
          value={next}
          onChange={(event) => setNext(event.currentTarget.value)}
        />
        {change.isError && <ErrorPanel error={change.error} />}
        <div className={desk.buttons}>
          <Button type="submit" variant="default" loading={change.isPending}>
            Change password
          </Button>
        </div>
      </form>
    </section>
  );
}

function Sessions() {
  const sessions = useQuery(sessionsQuery);
  const queries = useQueryClient();
  const again = () => void queries.invalidateQueries({ queryKey: ["me", "sessions"] });
  const end = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/me/sessions/{session_id}", { params: { path: { session_id: id } } })),
    onSuccess: again,
  });
  const others = useMutation({ mutationFn: () => take(api.POST("/api/me/sessions/end-others")), onSuccess: again });
  return (
    <section className={desk.section}>
      <h2>Signed-in devices</h2>
      {sessions.isError && <ErrorPanel error={sessions.error} />}
      <table className={desk.table}>
        <tbody>
          {sessions.data?.map((one) => (
            <tr key={one.id}>
              <td>
                {one.device || "A device"}
                {one.address && <div className={desk.small}>{one.address}</div>}
              </td>
              <td className={desk.figures}>
                {one.here ? "this device" : `last used ${dayOf(one.seen_at)}, ${clock(one.seen_at)}`}
              </td>
              <td>
                {!one.here && (
                  <Button size="compact-sm" variant="default" onClick={() => end.mutate(one.id)}>
                    Sign out
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {(sessions.data?.length ?? 0) > 1 && (
        <div className={desk.buttons}>
          <Button variant="default" onClick={() => others.mutate()} loading={others.isPending}>
            Sign out everywhere else
          </Button>
        </div>
      )}
    </section>
  );
}

function CalendarFeed({ me }: { me: Me }) {
  const queries = useQueryClient();
  const [token, setToken] = useState<string>();
  const again = () => void queries.invalidateQueries(meQuery);
  const make = useMutation({
    mutationFn: () => take(api.POST("/api/me/calendar")),
    onSuccess: (feed) => {
      setToken(feed.token);
      again();
    },
  });
  const end = useMutation({
    mutationFn: () => take(api.DELETE("/api/me/calendar")),
    onSuccess: () => {
      setToken(undefined);
      again();
    },
  });
  const names = useMutation({
    mutationFn: (calendar_names: boolean) => take(api.PATCH("/api/me", { body: { calendar_names } })),
    onSuccess: (now) => queries.setQueryData(["me"], now),
  });
  return (
    <section className={desk.section}>
      <h2>Calendar</h2>
      <p>
        {me.calendar
          ? "Your appointments are available at a private link. Anyone with the link can read them."
          : "Subscribe to your appointments in any calendar, at a private link."}
      </p>
      {token && (
        <OneTime
          says="Add this link to your calendar as a subscription. It is shown only once."
          address={`${window.location.origin}/api/calendar/${token}.ics`}
        />
      )}
      <Switch
        label="Full names"
        description="Otherwise initials"
        checked={me.calendar_names}
        onChange={(event) => names.mutate(event.currentTarget.checked)}
      />
      <div className={desk.buttons}>
        <Button variant="default" onClick={() => make.mutate()} loading={make.isPending}>
          {me.calendar ? "Create new link" : "Create link"}
        </Button>
        {me.calendar && (
          <Button variant="default" onClick={() => end.mutate()}>
            Turn off
          </Button>
        )}
      </div>
    </section>
  );
}

function Leave() {
  const me = useMe();
  const [asked, setAsked] = useState(false);
  const [password, setPassword] = useState("");
  const [to, setTo] = useState<string | null>(null);
  const colleagues = useQuery(practitionersQuery);
  const leave = useMutation({
    mutationFn: () => take(api.POST("/api/me/leave", { body: { password, hand_over_to: to } })),
    onSuccess: () => window.location.assign("/sign-in"),
  });
  const others = (colleagues.data ?? []).filter((one) => one.treats && one.id !== me.data?.id);
  return (
    <section className={desk.section}>
      <h2>Leave the practice</h2>
      <p>Your account will be closed. Your name stays on your past entries.</p>
      {asked ? (
        <form
          className={desk.form}
          onSubmit={(event) => {
            event.preventDefault();
            leave.mutate();
          }}
        >
          <Select
            label="Who takes over your people and appointments?"
            clearable
            data={others.map((one) => ({ value: one.id, label: one.name }))}
            value={to}
            onChange={setTo}
          />
          <YourPassword value={password} onChange={setPassword} />
          {leave.isError && <ErrorPanel error={leave.error} />}
          <div className={desk.buttons}>
            <Button type="submit" loading={leave.isPending}>
              Close my account
            </Button>
            <Button variant="default" onClick={() => setAsked(false)}>
              Stay
            </Button>
          </div>
        </form>
      ) : (
        <div className={desk.buttons}>
          <Button variant="default" onClick={() => setAsked(true)}>
            Leave the practice
          </Button>
        </div>
      )}
    </section>
  );
}
