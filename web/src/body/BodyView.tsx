/** The body: a matte stone figure in ink, the person's own, turned to what matters now. The hand may turn it. */
import { Canvas } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";
import type * as THREE from "three";
import type { Schema } from "../api/client";
import { STANDING } from "../api/queries";
import { useFigureDetail } from "../shared/device-prefs";
import { useDim } from "../shared/dim";
import { useKeys } from "../shared/keys";
import { ErrorPanel, Waiting } from "../shared/parts";
import { shortId } from "../shared/words";
import { Areas } from "./Areas";
import css from "./BodyView.module.css";
import { Bones } from "./Bones";
import { Pressing } from "./ChosenPlace";
import { Clothes, useDraped } from "./Cloth";
import { colours } from "./colours";
import { KeptFree, KeptFreeWords, useKeptFree } from "./KeptFree";
import { type Label, Labels, LabelTracker } from "./Labels";
import { Found, HandsPath, SegmentLine, SkinLine, Walking } from "./Lines";
import { BareSkin, Marks } from "./Marks";
import type { Box } from "./placing";
import { Rig } from "./Rig";
import { Stone } from "./Stone";
import { useSkin } from "./skin";
import { Targets, TargetTracker } from "./Targets";
import type { Triple } from "./view";
import {
  cuts,
  FIELD_OF_VIEW,
  lookAlong,
  lookAt,
  lookAtAll,
  lookAtGroup,
  markSize,
  wholeBody,
  wholeBodyFrom,
} from "./view";

type Place = Schema["PlaceOnBody"];
export type Ring = { position_cm: Triple; normal: Triple; text: string; first: number; last: number };
type Props = {
  personId: string;
  figure: Schema["FigureOut"];
  /** The pose that the figure is in; standing if left out. */
  pose?: string;
  /** What is looked at. */
  located?: Schema["Located"];
  part?: string;
  segment?: Schema["SegmentOut"];
  /** Places of the hands in order, for a score. */
  path?: [number, number, number][];
  onPick?: (place: Place) => void;
  /** A touch on the skin, away from every mark. */
  onTouch?: (place: Triple) => void;
  marks?: boolean;
  /** The points and areas that are shown; all of them if left out. */
  places?: Place[];
  /** Something on the way to the place that is looked at first: a landmark. */
  focus?: { position_cm: Triple; normal: Triple; name: string };
  /** Whether the ghost of bones is faded in. */
  bones?: boolean;
  /** Lines along the skin: a channel, one list a branch. */
  line?: Triple[][];
  /** Sore places: a ring with its numbers at each. */
  rings?: Ring[];
  /** Where hands found the chosen place. */
  found?: Triple[];
  /** Which station of the way along the chosen area the hand is at; none where it does not go along it. */
  walking?: number | undefined;
  /** Whether the figure stays draped: where whom it stands for may look on. Else there is a switch. */
  draped?: boolean;
};

const BEHIND_EAR = /^(behind the ear)$/;
const MOST_TARGETS = 180;
const NO_PLACES: Place[] = [];
const LYING = ["supine", "prone", "side"];
/** Poses in which a limb comes before the trunk or another limb, so that no plane can leave it alone. */
const FOLDED = [...LYING, "seated", "elbow_bent", "arm_up"];

const hasWebGl = () => {
  try {
    return document.createElement("canvas").getContext("webgl2") !== null;
  } catch {
    return false;
  }
};

export default function BodyView(props: Props) {
  const { personId, figure, located, pose = STANDING } = props;
  const [able] = useState(hasWebGl);
  const { geometry, error } = useSkin(personId, figure.key, pose);
  if (!able) return <FlatView personId={personId} located={located} />;
  if (error) return <ErrorPanel error={error} />;
  if (!geometry) return <Waiting for="Loading the figure" />;
  return <Scene {...props} geometry={geometry} />;
}

/** Without WebGL: the flat drawing of the same mesh. */
function FlatView({ personId, located }: { personId: string; located: Schema["Located"] | undefined }) {
  if (!located) return <p className={css.flat}>Choose a point to see it as a drawing in this browser.</p>;
  const source = `/api/people/${personId}/places/${located.id}/drawing?side=${located.side}`;
  return <img className={css.flat} src={source} alt={`${located.id}, ${located.name}, ${located.side}`} />;
}

const PART_OF_SEGMENT: Record<string, string> = {
  forearm: "forearm",
  forearm_back: "forearm",
  upper_arm: "upper_arm",
  thigh_front: "thigh",
  lower_leg_inner: "lower_leg",
  lower_leg_outer: "lower_leg",
  lower_leg_front: "lower_leg",
  thigh_outer: "thigh",
  thigh_back: "thigh",
  ankle_height: "foot",
};

function Scene(props: Props & { geometry: THREE.BufferGeometry }) {
  const { figure, located, part = "trunk", segment, path, onPick, onTouch, marks = true, geometry, focus } = props;
  const shown = props.places ?? figure.places;
  // Of a channel or a map every point is an element too; of all points together that would be a thousand.
  const targets = useMemo(() => (shown.length <= MOST_TARGETS ? shown : []), [shown]);
  // Soft shapes are shown of one map at a time: that of the group, or of the chosen area.
  const shapes = useMemo(() => {
    if (!marks) return NO_PLACES;
    if (props.places) return props.places.filter((one) => one.kind === "area");
    const group = located?.kind === "area" && figure.places.find((one) => one.id === located.id)?.group;
    return group ? figure.places.filter((one) => one.group === group && one.kind === "area") : NO_PLACES;
  }, [marks, props.places, located, figure.places]);
  const pose = props.pose ?? STANDING;
  const { dim } = useDim();
  const paint = colours(dim);
  const [turn, setTurn] = useState(0);
  const [draped, drape] = useDraped();
  const grounds = useKeptFree(props.personId);
  const near = located?.id.startsWith("ear_") ? "ear" : part;
  const look = useMemo(() => {
    const level = !LYING.includes(pose);
    if (focus) return lookAt(focus.position_cm, focus.normal, near, undefined, level);
    if (located && near === "ear" && !located.id.startsWith("ear_P")) {
      // One look at every area in the bowl and on the rim: along each one's own normal the head would tumble.
      return lookAt(located.position_cm, [located.side === "left" ? 1 : -1, 0.02, 0.22], near, undefined, level);
    }
    if (located && BEHIND_EAR.test(located.region)) {
      // The ear stands before what lies behind it: look from behind.
      return lookAt(located.position_cm, [located.side === "left" ? 0.55 : -0.55, 0, -1], near, undefined, level);
    }
    if (located) {
      const run = located.segment && located.segment.length_cm > 14 ? located.segment.path_cm : undefined;
      return lookAt(located.position_cm, located.normal, near, run?.[Math.floor(run.length / 2)], level);
    }
    if (segment) return lookAlong(segment.path_cm, segment.normal);
    if (pose !== STANDING && pose !== "palm_up") return lookAtAll(geometry, level);
    if (props.rings) return wholeBodyFrom(figure.height_cm, mostlyBehind(props.rings));
    return props.places ? lookAtGroup(oneSide(props.places), figure.height_cm) : wholeBody(figure.height_cm);
  }, [located, near, segment, focus, figure.height_cm, props.places, props.rings, pose, geometry]);
  useKeys({ v: () => setTurn((count) => count + 1) });
  const cut = useMemo(() => {
    if (FOLDED.includes(pose)) return [];
    if (located) return cuts(part, located.side, figure.height_cm);
    return segment ? cuts(PART_OF_SEGMENT[segment.id] ?? "trunk", "left", figure.height_cm) : [];
  }, [located, segment, part, pose, figure.height_cm]);
  const { rings } = props;
  const labels = useMemo(
    () => [...labelsFor(located, path, focus, shapes), ...ringLabels(rings)],
    [located, path, focus, shapes, rings],
  );
  const detail = useFigureDetail();
  const codes = useRef<Box[]>([]);
  const [bone, setBone] = useState("");
  const holder = useRef<HTMLDivElement>(null);
  const [ready, setReady] = useState(false);
  useEffect(() => setReady(true), []);
  return (
    <div ref={holder} className={css.view} data-ready={ready || undefined} data-testid="body">
      <Canvas
        frameloop="demand"
        dpr={detail}
        camera={{ fov: FIELD_OF_VIEW, position: [0, 90, 400], near: 2, far: 2000 }}
        gl={{ antialias: true, preserveDrawingBuffer: true, localClippingEnabled: true }}
        role="img"
        aria-label={located ? `${located.name} on the body` : "The person's figure"}
      >
        <color attach="background" args={[paint.ground]} />
        <Rig look={look} turn={turn} ground={paint.ground} light={paint.light} holder={holder} />
        <Stone geometry={geometry} paint={paint} cut={cut} />
        {(props.draped || draped) && (
          <Clothes worn={figure.cloth} geometry={geometry} located={located} paint={paint} cut={cut} />
        )}
        <SkinLine branches={figure.ink_cm} paint={paint} faint cut={cut} />
        <KeptFree grounds={grounds} geometry={geometry} paint={paint} cut={cut} />
        <Bones
          personId={props.personId}
          figureKey={figure.key}
          pose={pose}
          shown={props.bones ?? false}
          skin={geometry}
          cut={cut}
          paint={paint}
          onName={setBone}
        />
        {marks && (
          <Marks
            places={shown}
            shapes={shapes}
            chosen={located}
            paint={paint}
            cut={cut}
            onPick={onPick}
            onTouch={onTouch}
            skin={geometry}
          />
        )}
        {!marks && onTouch && <BareSkin cut={cut} onTouch={onTouch} skin={geometry} />}
        {props.line && <SkinLine branches={props.line} paint={paint} />}
        {located?.way && <SkinLine branches={[located.way.path_cm]} paint={paint} dashed />}
        {props.found && <Found places={props.found} paint={paint} size={markSize(near)} />}
        {located && <Pressing located={located} paint={paint} size={markSize(near)} />}
        {located && props.walking !== undefined && (
          <Walking way={located.walk_cm} at={props.walking} paint={paint} size={markSize(near)} />
        )}
        <Areas places={shapes} located={located} skin={geometry} paint={paint} cut={cut} />
        {located?.segment && (
          <SegmentLine
            path={located.segment.path_cm}
            cun={located.segment.cun}
            cunCm={located.segment.cun_cm}
            normal={located.normal}
            paint={paint}
          />
        )}
        {segment && (
          <SegmentLine
            path={segment.path_cm}
            cun={segment.cun}
            cunCm={segment.cun_cm}
            normal={segment.normal}
            paint={paint}
          />
        )}
        {path && path.length > 1 && <HandsPath path={path} paint={paint} />}
        {marks && onPick && <TargetTracker places={targets} cut={cut} codes={codes} />}
        <LabelTracker labels={labels} codes={codes} />
      </Canvas>
      <Labels labels={labels} />
      <KeptFreeWords grounds={grounds} />
      {marks && onPick && <Targets places={targets} chosen={located} onPick={onPick} />}
      {props.bones && (
        <p className={css.bone} role="status">
          {bone || "Point to a bone to see its name"}
        </p>
      )}
      <div className={css.corner}>
        <button type="button" onClick={() => setTurn(turn + 1)}>
          Reset view <kbd>V</kbd>
        </button>
        {!props.draped && (
          <button type="button" aria-pressed={draped} onClick={() => drape(!draped)}>
            {draped ? "Hide drape" : "Show drape"}
          </button>
        )}
      </div>
    </div>
  );
}

/** Of places on both sides those on the left, so that a limb is looked at and not the air between two. */
const oneSide = (places: Place[]) => {
  const left = places.filter((one) => one.side === "left");
  return left.length > 0 ? left : places;
};

/** Whether most of the sore places lie on the back of the standing figure. */
const mostlyBehind = (rings: Ring[]) => rings.filter((one) => one.normal[2] < -0.3).length * 2 > rings.length;

const ringLabels = (rings: Ring[] | undefined): Label[] =>
  (rings ?? []).map(({ position_cm: at, text, first, last }) => ({ text, at, ring: [first, last] }));

function labelsFor(
  located: Schema["Located"] | undefined,
  path: [number, number, number][] | undefined,
  focus: Props["focus"],
  shapes: Place[],
): Label[] {
  const labels: Label[] = [];
  if (focus) labels.push({ text: focus.name, at: focus.position_cm, focus: true });
  if (located) {
    labels.push({
      text: shortId(located.id),
      at: located.position_cm,
      strong: true,
    });
    for (const [id, at] of Object.entries(located.landmarks)) {
      if (focus?.name !== located.landmark_names[id]) labels.push({ text: located.landmark_names[id] ?? id, at });
    }
  }
  for (const one of shapes) {
    if (one.id === located?.id || (located && one.side !== located.side && one.side !== "left")) continue;
    labels.push({ text: shortId(one.id), at: one.position_cm, normal: one.normal, quiet: true });
  }
  path?.forEach((at, index) => {
    labels.push({ text: String(index + 1), at, number: true });
  });
  return labels;
}
