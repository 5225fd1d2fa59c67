/** Complaints: what stops the work, what to ask, what is used by ground and role, and what this practice does otherwise. */
import { Button, NativeSelect, NumberInput } from "@mantine/core";
import { Fragment, useState } from "react";
import type { Schema } from "../../api/client";
import { AddByName } from "../../shared/AddByName";
import { shortId } from "../../shared/words";
import css from "./CatalogueScreen.module.css";
import { OwnComplaint } from "./OwnComplaint";
import { idFor, type LayerOfPractice, without } from "./useLayer";

type Page = Schema["ComplaintPage"];
type Props = { pages: Page[]; layer: LayerOfPractice; match: (...texts: string[]) => boolean };
const GROUNDS = {
  points: "Points",
  reflexes: "Feet and hands",
  ear: "Ear",
  face: "Face and scalp",
  ribs: "Ribs",
} as const;
const ROLES = {
  main: "local",
  supply: "supports the area",
  far: "far",
  pain: "pain relief",
  calm: "calming",
} as const;
const EVIDENCE = { none: "No evidence", weak: "Weak evidence", some: "Some evidence", fair: "Fair evidence" } as const;

export function Complaints({ pages, layer, match }: Props) {
  // The practice's own come first: there are few of them, and they are why one looks.
  const shown = [...pages.filter((page) => page.own), ...pages.filter((page) => !page.own)].filter((page) =>
    match(page.kind.name, page.kind.id, page.kind.acts.join(" "), page.uses.map((use) => use.id).join(" ")),
  );
  const [chosen, setChosen] = useState<string | null>(null);
  const [adding, setAdding] = useState(false);
  // One that was just added is not among the pages until they are read again; meanwhile no other stands in its place.
  const coming = chosen !== null && !pages.some((one) => one.kind.id === chosen);
  const page = coming ? undefined : (shown.find((one) => one.kind.id === chosen) ?? shown[0]);
  return (
    <div className={css.columns}>
      <ul className={css.list}>
        <li>
          <button type="button" aria-current={adding || undefined} onClick={() => setAdding(true)}>
            New complaint
          </button>
        </li>
        {shown.map((one) => (
          <li key={one.kind.id}>
            <button
              type="button"
              aria-current={(!adding && one === page) || undefined}
              onClick={() => {
                setChosen(one.kind.id);
                setAdding(false);
              }}
            >
              {one.kind.name} {(one.changed || one.own) && <mark>customised</mark>}
            </button>
          </li>
        ))}
        {shown.length === 0 && <li className={css.hint}>No complaint matches.</li>}
      </ul>
      {adding && (
        <article className={css.sheet}>
          <h2>New practice complaint</h2>
          <OwnComplaint
            onKeep={(own) => {
              const id = idFor(
                "own",
                own.name,
                pages.map((one) => one.kind.id),
              );
              layer.change({ own_complaints: { ...layer.layer.own_complaints, [id]: own } });
              setChosen(id);
              setAdding(false);
            }}
          />
        </article>
      )}
      {!adding && page && (
        <ComplaintSheet key={page.kind.id} page={page} layer={layer} onGone={() => setChosen(null)} />
      )}
    </div>
  );
}

type SheetProps = { page: Page; layer: LayerOfPractice; onGone: () => void };

function ComplaintSheet({ page, layer, onGone }: SheetProps) {
  const { kind, uses } = page;
  const ours = layer.layer.complaints?.[kind.id];
  const own = layer.layer.own_complaints?.[kind.id];
  const change = (next: Partial<Schema["ComplaintChange"]>) =>
    layer.change({
      complaints: {
        ...layer.layer.complaints,
        [kind.id]: { add: [], remove: [], weights: {}, home: null, ...ours, ...next },
      },
    });
  const facts = [
    ["Stop and refer", kind.stop_if.join("; ")],
    ["Ask", kind.ask.join(" ")],
    ["Activities affected", kind.acts.join(", ")],
    ["Measure progress by", kind.measure],
    [EVIDENCE[kind.evidence.strength], kind.evidence.says],
    ["Also used", kind.techniques.map((id) => id.replaceAll("_", " ")).join(", ")],
    ["At home", kind.home.map(shortId).join(", ")],
  ] as const;
  return (
    <article className={css.sheet}>
      <h2>
        {kind.name} {(page.changed || page.own) && <mark>customised</mark>}
      </h2>
      {kind.checked && <p className={css.strong}>{kind.checked}</p>}
      <dl className={css.facts}>
        {facts
          .filter(([, said]) => said !== "")
          .map(([name, said]) => (
            <Fragment key={name}>
              <dt>{name}</dt>
              <dd>{said}</dd>
            </Fragment>
          ))}
      </dl>
      {own && (
        <details>
          <summary>Edit complaint</summary>
          <OwnComplaint
            begun={own}
            onKeep={(next) => layer.change({ own_complaints: { ...layer.layer.own_complaints, [kind.id]: next } })}
          />
        </details>
      )}
      <AddUse kind={kind} onUse={(use) => change({ add: [...(ours?.add ?? []), use] })} />
      {(Object.keys(GROUNDS) as (keyof typeof GROUNDS)[])
        .filter((ground) => uses.some((use) => use.ground === ground))
        .map((ground) => (
          <section key={ground}>
            <h3>{GROUNDS[ground]}</h3>
            <table>
              <tbody>
                {uses
                  .filter((use) => use.ground === ground)
                  .map((use) => (
                    <tr key={`${use.id}-${use.role}`}>
                      <th scope="row">
                        {shortId(use.id)} {use.own && <mark>customised</mark>}
                      </th>
                      <td>{ROLES[use.role as keyof typeof ROLES]}</td>
                      <td>{use.why}</td>
                      <td>
                        <NumberInput
                          size="xs"
                          w={64}
                          aria-label={`Weight of ${shortId(use.id)}`}
                          min={0.1}
                          max={5}
                          step={0.5}
                          decimalScale={1}
                          defaultValue={Number(use.weight.toFixed(1))}
                          onBlur={(event) => {
                            const weight = Number(event.currentTarget.value);
                            if (weight > 0 && Math.abs(weight - use.weight) > 0.05)
                              change({ weights: { ...ours?.weights, [use.id]: weight } });
                          }}
                        />
                      </td>
                      <td>
                        <Button
                          size="compact-xs"
                          variant="default"
                          onClick={() =>
                            change(
                              ours?.add.some((one) => one.id === use.id)
                                ? { add: ours.add.filter((one) => one.id !== use.id) }
                                : { remove: [...(ours?.remove ?? []), use.id] },
                            )
                          }
                        >
                          Remove here
                        </Button>
                      </td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </section>
        ))}
      {page.removed.length > 0 && (
        <p>
          Removed in this practice:{" "}
          {page.removed.map((id) => (
            <Button
              key={id}
              size="compact-xs"
              variant="default"
              onClick={() => change({ remove: page.removed.filter((one) => one !== id) })}
            >
              {shortId(id)}: restore
            </Button>
          ))}
        </p>
      )}
      {own && (
        <Button
          className={css.alone}
          variant="default"
          onClick={() => {
            layer.change({
              own_complaints: without(layer.layer.own_complaints, kind.id),
              complaints: without(layer.layer.complaints, kind.id),
            });
            onGone();
          }}
        >
          Remove this complaint
        </Button>
      )}
      {page.changed && !own && (
        <Button
          className={css.alone}
          variant="default"
          onClick={() => layer.change({ complaints: without(layer.layer.complaints, kind.id) })}
        >
          Restore default
        </Button>
      )}
    </article>
  );
}

type Use = Schema["Use"];
const option = ([value, label]: [string, string]) => ({ value, label });

/** Another point or area for a complaint, the practice's own among them: found by name, with its ground and role. */
function AddUse({ kind, onUse }: { kind: Schema["ComplaintKind"]; onUse: (use: Use) => void }) {
  const [ground, setGround] = useState<Use["ground"]>("points");
  const [role, setRole] = useState<Use["role"]>("main");
  return (
    <div className={css.then}>
      <AddByName
        label="Add a point or area"
        placeholder="Add: SP6, or your own points"
        onAdd={(id) => onUse({ id, ground, role, weight: 2, side: kind.sides, why: "Added in this practice." })}
      />
      <NativeSelect
        aria-label="Approach"
        data={Object.entries(GROUNDS).map(option)}
        value={ground}
        onChange={(event) => setGround(event.currentTarget.value as Use["ground"])}
      />
      <NativeSelect
        aria-label="Role"
        data={Object.entries(ROLES).map(option)}
        value={role}
        onChange={(event) => setRole(event.currentTarget.value as Use["role"])}
      />
    </div>
  );
}
