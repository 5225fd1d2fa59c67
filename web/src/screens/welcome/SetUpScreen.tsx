/** The first run: the practice, its first practitioner, their hand, how they work. Kept all at once, at the end. */
import { Button, Checkbox, NumberInput, PasswordInput, Select, Switch, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, type ReactNode, useState } from "react";
import { ApiError, api, type Schema, take } from "../../api/client";
import { enter } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { languages } from "../../shared/languages";
import { ErrorPanel } from "../../shared/parts";
import { arrived } from "../../treatment/session";
import { type LinkIsFor, Welcome } from "./Welcome";
import css from "./Welcome.module.css";

type Practice = Schema["SetUpPractice"];
type Practitioner = Schema["SetUpPractitioner"];

const STEPS = ["Your practice", "You", "Your hand", "Working preferences"] as const;
const FINGERS = [
  ["thumb_width", "Thumb, across the joint"],
  ["two_fingers", "Two fingers"],
  ["three_fingers", "Three fingers"],
  ["four_fingers", "Four fingers"],
] as const;
/** Which step asks for a thing that the server refused. */
const ASKED_AT: Record<string, number> = {
  practice: 0,
  time_zone: 0,
  practitioner: 1,
  email: 1,
  password: 1,
  fingers: 2,
};

export function SetUpScreen() {
  return (
    <Welcome kind="set_up" wide>
      {(link, token) => <SetUp link={link} token={token} />}
    </Welcome>
  );
}

function SetUp({ link, token }: { link: LinkIsFor; token: string }) {
  const [step, setStep] = useState(0);
  const [practice, setPractice] = useState<Practice>({
    name: "",
    time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    local_rules: "",
    emergency: "",
  });
  const [who, setWho] = useState<Practitioner>({
    name: "",
    email: "",
    password: "",
    schools: Object.keys(link.schools),
    usual_minutes: 45,
    theme: "auto",
    name_languages: ["english", "romanised"],
  });
  const [fingers, setFingers] = useState<Record<string, number>>({});
  const queries = useQueryClient();
  const navigate = useNavigate();
  const save = useMutation({
    mutationFn: () => {
      const hand = Object.keys(fingers).length ? fingers : null;
      const body = { token, practice, practitioner: { ...who, fingers: hand } };
      return take(api.POST("/api/links/set-up", { body }));
    },
    onSuccess: async (me) => {
      arrived();
      await enter(me);
      queries.setQueryData(["me"], me);
      void navigate({ to: "/" });
    },
    onError: (error) => {
      const where = error instanceof ApiError ? error.problem.where.split(".") : [];
      const at = where.map((part) => ASKED_AT[part]).filter((found) => found !== undefined);
      if (at.length) setStep(Math.max(...at));
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (step < STEPS.length - 1) setStep(step + 1);
    else save.mutate();
  };
  const pages: ReactNode[] = [
    <AboutPractice key="practice" value={practice} onChange={setPractice} />,
    <AboutYou key="you" value={who} onChange={setWho} />,
    <YourHand key="hand" value={fingers} onChange={setFingers} />,
    <HowYouWork key="work" schools={link.schools} value={who} onChange={setWho} />,
  ];
  const last = step === STEPS.length - 1;
  return (
    <form className={`${css.sheet} ${css.wide}`} onSubmit={submit}>
      <ol className={css.steps}>
        {STEPS.map((name, rank) => (
          <li key={name} aria-current={rank === step ? "step" : undefined} data-done={rank < step || undefined}>
            {name}
          </li>
        ))}
      </ol>
      <div className={css.step} key={step}>
        {pages[step]}
      </div>
      {save.isError && <ErrorPanel error={save.error} />}
      <div className={css.buttons}>
        {step > 0 && (
          <Button variant="default" size="md" onClick={() => setStep(step - 1)}>
            Back
          </Button>
        )}
        <Button type="submit" size="md" loading={save.isPending}>
          {last ? "Open the practice" : step === 2 && Object.keys(fingers).length === 0 ? "Skip for now" : "Continue"}
        </Button>
      </div>
    </form>
  );
}

function AboutPractice({ value, onChange }: { value: Practice; onChange: (value: Practice) => void }) {
  const set = (change: Partial<Practice>) => onChange({ ...value, ...change });
  return (
    <>
      <TextInput
        label="Name of the practice"
        required
        withAsterisk={false}
        data-autofocus
        value={value.name}
        onChange={(event) => set({ name: event.currentTarget.value })}
      />
      <Select
        label="Time zone"
        searchable
        allowDeselect={false}
        data={Intl.supportedValuesOf("timeZone")}
        value={value.time_zone}
        onChange={(time_zone) => time_zone && set({ time_zone })}
      />
      <Textarea
        label="Local regulations"
        description="Scope of practice, consent, record keeping. Shown where they apply; can be added later."
        rows={2}
        value={value.local_rules}
        onChange={(event) => set({ local_rules: event.currentTarget.value })}
      />
      <Textarea
        label="Emergency contact"
        description="Phone number and name. Shown when a session has to stop."
        rows={2}
        value={value.emergency}
        onChange={(event) => set({ emergency: event.currentTarget.value })}
      />
    </>
  );
}

function AboutYou({ value, onChange }: { value: Practitioner; onChange: (value: Practitioner) => void }) {
  const set = (change: Partial<Practitioner>) => onChange({ ...value, ...change });
  return (
    <>
      <TextInput
        label="Your name"
        required
        withAsterisk={false}
        value={value.name}
        onChange={(event) => set({ name: event.currentTarget.value })}
      />
      <TextInput
        label="Email"
        description="Used to sign in. No email is sent to it."
        type="email"
        autoComplete="username"
        required
        withAsterisk={false}
        value={value.email}
        onChange={(event) => set({ email: event.currentTarget.value })}
      />
      <PasswordInput
        label="Password"
        description="At least 10 characters"
        autoComplete="new-password"
        required
        minLength={10}
        withAsterisk={false}
        value={value.password}
        onChange={(event) => set({ password: event.currentTarget.value })}
      />
    </>
  );
}

type Hand = Record<string, number>;

function YourHand({ value, onChange }: { value: Hand; onChange: (value: Hand) => void }) {
  return (
    <>
      <p>
        Distances are always those of the person's body. With your finger widths they are also shown in your fingers.
        Place your fingers together on a ruler and measure across the middle joints.
      </p>
      <div className={desk.row}>
        {FINGERS.map(([name, label]) => (
          <NumberInput
            key={name}
            label={label}
            suffix=" cm"
            decimalScale={1}
            step={0.1}
            min={0.5}
            max={14}
            value={value[name] ?? ""}
            onChange={(width) => {
              const { [name]: _, ...others } = value;
              onChange(typeof width === "number" ? { ...others, [name]: width } : others);
            }}
          />
        ))}
      </div>
    </>
  );
}

type Work = { schools: Record<string, string>; value: Practitioner; onChange: (value: Practitioner) => void };

function HowYouWork({ schools, value, onChange }: Work) {
  const set = (change: Partial<Practitioner>) => onChange({ ...value, ...change });
  return (
    <>
      <Checkbox.Group
        label="Schools you use"
        description="Offered first when you compose. All can still be used."
        value={[...(value.schools ?? [])]}
        onChange={(chosen) => set({ schools: chosen })}
      >
        <div className={desk.two}>
          {Object.entries(schools).map(([id, name]) => (
            <Checkbox key={id} value={id} label={name} mt={6} />
          ))}
        </div>
      </Checkbox.Group>
      <NumberInput
        label="Usual visit length in minutes"
        min={3}
        max={240}
        maw={220}
        value={value.usual_minutes}
        onChange={(minutes) => typeof minutes === "number" && set({ usual_minutes: minutes })}
      />
      <Checkbox.Group
        label="Point names"
        value={[...(value.name_languages ?? [])]}
        onChange={(chosen) => chosen.length && set({ name_languages: chosen as Practitioner["name_languages"] })}
      >
        <div className={desk.buttons}>
          {languages.map(([id, name]) => (
            <Checkbox key={id} value={id} label={name} mt={6} mr="md" />
          ))}
        </div>
      </Checkbox.Group>
      <Switch
        label="Use the dim-room display by default"
        checked={value.theme === "dim"}
        onChange={(event) => set({ theme: event.currentTarget.checked ? "dim" : "auto" })}
      />
    </>
  );
}
