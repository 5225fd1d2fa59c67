/** What to compose for: complaints, minutes, school; further wishes behind one button. */
import { Button, Checkbox, MultiSelect, NativeSelect, NumberInput, Popover, SegmentedControl } from "@mantine/core";
import type { Schema } from "../../api/client";
import { positionWords, shortId, sideWords } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import type { Wish } from "./useScore";
import { toggled } from "./wish";

type Props = {
  complaints: Schema["ComplaintOut"][];
  schools: Schema["SchoolPage"][];
  wish: Wish;
  onWish: (wish: Wish) => void;
};

export function WishBar({ complaints, schools, wish, onWish }: Props) {
  return (
    <>
      <div className={css.complaints}>
        {complaints.map((complaint) => (
          <Checkbox
            key={complaint.id}
            label={`${complaint.name}, ${sideWords[complaint.side]}`}
            checked={wish.complaint_ids.includes(complaint.id)}
            onChange={() => onWish({ ...wish, complaint_ids: toggled(wish.complaint_ids, complaint.id) })}
          />
        ))}
      </div>
      <NumberInput
        aria-label="Minutes of the session"
        suffix=" min"
        w={92}
        min={3}
        max={180}
        value={wish.minutes}
        onChange={(value) => typeof value === "number" && value > 0 && onWish({ ...wish, minutes: value })}
      />
      <NativeSelect
        aria-label="School"
        w={190}
        data={schools.map((one) => ({
          value: one.school.id,
          label: `${one.school.name}${one.changed ? " (customised)" : ""}`,
        }))}
        value={wish.school}
        onChange={(event) => onWish({ ...wish, school: event.currentTarget.value })}
      />
      <Popover width={380} position="bottom-start" withArrow>
        <Popover.Target>
          <Button variant="default">Wishes{wished(wish) > 0 && `: ${wished(wish)}`}</Button>
        </Popover.Target>
        <Popover.Dropdown>
          <Wishes wish={wish} schools={schools} onWish={onWish} />
        </Popover.Dropdown>
      </Popover>
    </>
  );
}

const wished = (wish: Wish) =>
  wish.positions_excluded.length +
  wish.avoid.length +
  wish.prefer.length +
  wish.pinned.length +
  wish.also.length +
  (wish.setting === "self_care" ? 1 : 0) +
  (wish.ear_map === "second" ? 1 : 0) +
  (wish.foot_chart === "second" ? 1 : 0);

const POSITIONS = ["supine", "half_reclined", "prone", "left_side", "right_side", "seated", "leaning"] as const;
const MAPS = [
  { value: "standard", label: "first" },
  { value: "second", label: "second" },
];

function Wishes({ wish, schools, onWish }: Omit<Props, "complaints">) {
  return (
    <div className={css.wishes}>
      <fieldset>
        <legend>Not today</legend>
        {POSITIONS.map((position) => (
          <Checkbox
            key={position}
            label={positionWords[position]}
            checked={wish.positions_excluded.includes(position)}
            onChange={() => onWish({ ...wish, positions_excluded: toggled(wish.positions_excluded, position) })}
          />
        ))}
      </fieldset>
      <SegmentedControl
        aria-label="Setting"
        data={[
          { value: "practice", label: "at the practice" },
          { value: "self_care", label: "self-care only" },
        ]}
        value={wish.setting}
        onChange={(setting) => onWish({ ...wish, setting: setting as Wish["setting"] })}
      />
      <MultiSelect
        label="Mix in"
        placeholder={wish.also.length ? "" : "combine with another school"}
        comboboxProps={{ withinPortal: false }}
        data={schools
          .filter((one) => one.school.id !== wish.school)
          .map((one) => ({ value: one.school.id, label: one.school.name }))}
        value={wish.also}
        onChange={(also) => onWish({ ...wish, also })}
      />
      <div className={css.maps}>
        <span>Ear map</span>
        <SegmentedControl
          size="xs"
          aria-label="Ear map"
          data={MAPS}
          value={wish.ear_map}
          onChange={(ear_map) => onWish({ ...wish, ear_map: ear_map as Wish["ear_map"] })}
        />
        <span>Foot map</span>
        <SegmentedControl
          size="xs"
          aria-label="Foot map"
          data={MAPS}
          value={wish.foot_chart}
          onChange={(foot_chart) => onWish({ ...wish, foot_chart: foot_chart as Wish["foot_chart"] })}
        />
      </div>
      {(["pinned", "prefer", "avoid"] as const).map(
        (list) =>
          wish[list].length > 0 && (
            <p key={list}>
              {{ pinned: "Pinned", prefer: "Preferred", avoid: "Avoided" }[list]}:{" "}
              {wish[list].map((id) => (
                <button key={id} type="button" onClick={() => onWish({ ...wish, [list]: toggled(wish[list], id) })}>
                  {shortId(id)} ×
                </button>
              ))}
            </p>
          ),
      )}
      <p className={css.hint}>Pin, prefer or avoid a point at its block or in the Left out list.</p>
    </div>
  );
}
