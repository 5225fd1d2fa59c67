# Words of printed papers (exchange/templates).

paper-visit-title = Visit of { $person }
paper-visit-of = Visit of { $on }
paper-born = born { $on }, { $age }
paper-treated-by = treated by { $name }
paper-limits = Limits
paper-complaints = Complaints
paper-complaint = Complaint
paper-activity = Activity affected
paper-before = Before
paper-after = After
paper-over-visits = Over the visits
paper-record = Record
paper-record-asked = Ratings before
paper-record-done = Session
paper-record-felt = Response
paper-record-observed = Observed
paper-record-next = Next visit
paper-closed = Record closed by { $name } on { $on } at { $time }.
paper-open = This record is still open.
paper-added = Added by { $name } on { $on }
paper-next-appointment = Next appointment: { $on }
paper-session = Session, { $minutes } minutes
paper-stops = Stop by stop
paper-at = At
paper-stop = Stop
paper-side = Side
paper-both = both
paper-at-once = both at once
paper-technique = Technique
paper-level = Level
paper-sore = Sore
paper-observed = Observed
paper-round-again = Second round
paper-round-general = General round
paper-each = { $dose } each
paper-planned = planned { $level }
paper-not-applied = Entries not applied
paper-when = When
paper-entry = Entry
paper-reason = Reason
paper-note = Note
paper-left-out = Left out
paper-points = Points
paper-shown-on = { $sides } ({ $shown } shown)
paper-left-and-right = left and right
paper-care = This supports care and does not replace it; it is not a diagnosis. If in doubt, ask a doctor. Stop and get help if you have chest pain, sudden weakness, the worst headache of your life, or a hot swollen calf.

paper-score-title = Score for { $person }
paper-score-drawn = the score as a drawing
paper-minutes-of = { $minutes } of { $all } minutes
paper-where = Where
paper-as-before = as before
paper-level-of = { $level } of { $most }

paper-drawn-on = Drawn on the figure of { $person }.
paper-where-they-are = Where they are
paper-point = Point
paper-name = Name
paper-feel = Feel

paper-home-title = For { $person }, at home
paper-home-lead = { $times }{ $timed ->
    [yes] {" "}({ $hours })
   *[no] {""}
}. { $position }. Press in slowly. You may feel it, but it must not hurt. If a point stays sore, press more lightly. End with three breaths, breathing out more slowly than in.
paper-home-sets = The sets alternate: set A one day, set B the next.
paper-home-each-side = { $dose }, on each side
paper-home-with = With { $tool }.
paper-home-feel = Under your finger: { LOWER($feel) }
paper-home-direction = Press { $direction }.
paper-home-not-when = Do not press if
paper-home-see-doctor = See a doctor first if you have
paper-home-nothing = No home pressing for now. Rest, and use the slow breathing you have practised.
