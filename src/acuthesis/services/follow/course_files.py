"""A complaint's course as files: the figure, and the ratings as a table."""

import uuid

from acuthesis.exchange.course_csv import CsvRating, ratings_csv
from acuthesis.exchange.course_figure import CourseFigure, PlottedRating, course_svg
from acuthesis.services.ratings.outcomes import analysis_of, outcomes_of
from acuthesis.services.request.here import Here
from acuthesis.store import complaints as asked
from acuthesis.store import follow as store
from acuthesis.store import people, visits
from acuthesis.store.model import ComplaintRow


def figure_of(here: Here, complaint: ComplaintRow) -> CourseFigure:
    """What the figure of a complaint shows."""
    ratings = people.ratings_about(here.db, [complaint.id])
    outcomes_of(here, [complaint])  # the analysis is kept beside it
    analysis = analysis_of(here, complaint)
    held = [row for row in visits.visits_of(here.db, complaint.person_id) if row.treatment != "not_begun"]
    return CourseFigure(
        name=here.knowledge.name_of(complaint.kind),
        ratings=[PlottedRating(here.local(rating.rated_at), rating.value, rating.moment) for rating in ratings],
        band=analysis.band,
        sessions=[here.local(row.starts_at) for row in held],
        notes=[
            (here.local(here.day_bounds(entry.on_day)[0]), entry.words)
            for entry in store.log(here.db, complaint.person_id)
            if entry.kind == "event" and entry.complaint_id in (None, complaint.id)
        ],
    )


def course_as_svg(here: Here, complaint_id: uuid.UUID) -> str:
    """The figure of a complaint's course. Raises: NotFound."""
    complaint = people.complaint(here.db, complaint_id)
    here.reads(complaint.person_id, "course")
    return course_svg(figure_of(here, complaint))


def course_as_csv(here: Here, complaint_id: uuid.UUID) -> str:
    """The ratings of a complaint and of its acts, in order of time. Raises: NotFound."""
    complaint = people.complaint(here.db, complaint_id)
    here.reads(complaint.person_id, "course")
    name = here.knowledge.name_of(complaint.kind)
    acts = {act["id"]: act["words"] for act in complaint.acts}
    rows = [
        CsvRating(here.local(rating.rated_at), name, "", rating.value, rating.moment, rating.said_by)
        for rating in people.ratings_about(here.db, [complaint.id])
    ] + [
        CsvRating(
            here.local(rating.rated_at),
            name,
            acts.get(str(rating.act_id), ""),
            rating.value,
            rating.moment,
            rating.said_by,
        )
        for rating in asked.activity_ratings(here.db, [complaint.id])
    ]
    return ratings_csv(sorted(rows, key=lambda row: row.at))
