/** A day to type or to pick, written as this practice writes days and not as the browser does. */
import { DateInput, type DateInputProps } from "@mantine/dates";
import "@mantine/dates/styles.layer.css";
import dayjs from "dayjs";
import customParseFormat from "dayjs/plugin/customParseFormat";

dayjs.extend(customParseFormat);

const WRITTEN = "D MMM YYYY";
/** How a day may be typed: as it is written here, or with the month as a number, day first. */
const TYPED = [
  "YYYY-MM-DD",
  "D MMM YYYY",
  "D MMMM YYYY",
  "D/M/YYYY",
  "D.M.YYYY",
  "D-M-YYYY",
  "DD/MM/YYYY",
  "DD.MM.YYYY",
];
const MONDAY = 1;

type Props = Omit<DateInputProps, "value" | "onChange"> & {
  /** YYYY-MM-DD, or empty. */
  value: string;
  onChange: (day: string) => void;
};

/** The day that was typed as YYYY-MM-DD; null where it is no day. */
export function typedDay(text: string): string | null {
  const found = dayjs(text.trim(), TYPED, true);
  return found.isValid() ? found.format("YYYY-MM-DD") : null;
}

export function DayInput({ value, onChange, ...more }: Props) {
  return (
    <DateInput
      valueFormat={WRITTEN}
      dateParser={typedDay}
      firstDayOfWeek={MONDAY}
      clearable={!more.required}
      value={value || null}
      onChange={(day) => onChange(day ?? "")}
      {...more}
    />
  );
}
