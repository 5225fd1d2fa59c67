/** Compose: complaints and minutes in, a score out, with every reason; then edited by hand and by keys. */
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import type { Schema } from "../../api/client";
import { catalogueQuery, complaintsQuery, todayQuery } from "../../api/queries";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import css from "./ComposeScreen.module.css";
import { Drafts } from "./Drafts";
import { LeftOut } from "./LeftOut";
import { Preview } from "./Preview";
import { Programme } from "./Programme";
import { Protocols } from "./Protocols";
import { ScoreOnBody } from "./ScoreOnBody";
import { EditedScore, More, ScoreTools, Total } from "./ScorePart";
import { otherNotes, Spare } from "./Spare";
import { StopEditor } from "./StopEditor";
import { type Composer, type Inputs, useComposer } from "./useComposer";
import { WhatIf } from "./WhatIf";
import { WishBar } from "./WishBar";

type Score = Schema["Score"];

export function ComposeScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const today = useQuery(todayQuery(personId));
  const complaints = useQuery(complaintsQuery(personId));
  const catalogue = useQuery(catalogueQuery);
  const failure = [today, complaints, catalogue].find((query) => query.isError);
  if (failure) return <ErrorPanel error={failure.error} retry={() => void failure.refetch()} />;
  if (today.isPending || !complaints.data || !catalogue.data) return <Waiting for="Loading" />;
  if (!today.data) {
    return (
      <div className={css.alone}>
        <Empty>No visit today. Start one above, or book one in the overview.</Empty>
      </div>
    );
  }
  const open = complaints.data.filter((complaint) => !complaint.closed_on);
  return (
    <Composing key={personId} personId={personId} today={today.data} complaints={open} catalogue={catalogue.data} />
  );
}

function Composing(inputs: Inputs) {
  const composer = useComposer(inputs);
  const { visit, compose } = composer.score;
  const { made } = composer;
  if (visit.isPending) return <Waiting for="Loading the score" />;
  if (visit.isError) return <ErrorPanel error={visit.error} retry={() => void visit.refetch()} />;
  return (
    <div className={css.page}>
      <WishRow composer={composer} inputs={inputs} />
      {compose.isError && <ErrorPanel error={compose.error} />}
      {!made && !compose.isPending && !compose.isError && (
        <Empty>Choose the complaints and the time, then compose. You can edit everything afterwards.</Empty>
      )}
      {!made && compose.isPending && <Waiting for="Composing" />}
      {made && made.decision !== "ok" && (
        <div className={css.stopped} role="alert">
          {made.reasons?.map((reason) => (
            <p key={reason.rule}>{reason.text}</p>
          ))}
        </div>
      )}
      {made?.decision === "ok" && <Composed composer={composer} made={made} inputs={inputs} />}
      <Panels composer={composer} visitId={inputs.today.visit_id} />
    </div>
  );
}

/** What is wished for, and the way on to treating. */
function WishRow({ composer, inputs }: { composer: Composer; inputs: Inputs }) {
  const { personId, today, complaints } = inputs;
  const { made, wish } = composer;
  const navigate = useNavigate();
  return (
    <div className={css.wish}>
      {complaints.length === 0 && (
        <Link to="/people/$personId/complaints" params={{ personId }}>
          Add a complaint first
        </Link>
      )}
      <WishBar complaints={complaints} schools={composer.schools} wish={wish} onWish={composer.setWish} />
      <Button
        disabled={wish.complaint_ids.length === 0}
        loading={composer.score.compose.isPending}
        variant={made ? "default" : "filled"}
        onClick={() => composer.compose(wish)}
      >
        {made ? "Compose again" : "Compose"}
      </Button>
      {!made && <More onPanel={composer.setPanel} visitId={today.visit_id} made={false} />}
      {made?.decision === "ok" && (
        <>
          <Total total_s={made.total_s} budget_s={composer.budget_s} />
          <Button
            className={css.go}
            onClick={() => void navigate({ to: "/treat/$visitId", params: { visitId: today.visit_id } })}
          >
            Treat
          </Button>
        </>
      )}
    </div>
  );
}

/** The score with its tools, and below it the chosen stop, what was left out, and the body. */
function Composed({ composer, made, inputs }: { composer: Composer; made: Score; inputs: Inputs }) {
  const { personId, today, catalogue } = inputs;
  const { score, wish, compose, asking, setAsking } = composer;
  return (
    <>
      {composer.differs && !asking && (
        <Preview
          visitId={today.visit_id}
          version={score.visit.data?.version}
          made={made}
          wish={wish}
          onTake={() => compose(wish)}
          onLeave={composer.leave}
        />
      )}
      <EditedScore composer={composer} made={made} />
      <ScoreTools composer={composer} made={made} visitId={today.visit_id} techniques={catalogue.techniques} />
      <Spare personId={personId} today={today} made={made} wish={wish} schools={composer.schools} onCompose={compose} />
      {asking && (
        <WhatIf
          visitId={today.visit_id}
          score={score}
          made={made}
          wish={wish}
          schools={catalogue.schools}
          onTake={(next) => {
            setAsking(false);
            compose(next);
          }}
        />
      )}
      <div className={css.below} hidden={asking}>
        <StopEditor
          stop={composer.stop}
          stops={score.stops}
          notes={otherNotes(made)}
          score={score}
          wish={wish}
          onWish={composer.setWish}
        />
        <LeftOut made={made} onAdd={composer.add} onPin={(id) => compose({ ...wish, pinned: [...wish.pinned, id] })} />
        <ScoreOnBody personId={personId} composer={composer} />
      </div>
    </>
  );
}

function Panels({ composer, visitId }: { composer: Composer; visitId: string }) {
  const { panel, score, made } = composer;
  const close = () => composer.setPanel(null);
  return (
    <>
      {panel === "drafts" && made && (
        <Drafts visitId={visitId} score={score} made={made} budget_s={composer.budget_s} onClose={close} />
      )}
      {panel === "protocols" && (
        <Protocols visitId={visitId} score={score} hasScore={Boolean(made?.stops.length)} onClose={close} />
      )}
      {panel === "programme" && <Programme visitId={visitId} wish={composer.wish} onClose={close} />}
    </>
  );
}
