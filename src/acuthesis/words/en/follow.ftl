# What the ratings say, with how sure that is (core/follow).

trend-no-rating = no rating yet
trend-too-early = too early to say
trend-unclear = not clear yet
trend-better = better
trend-no-change = no real change
trend-worse = worse

levels = about { $start } at the start, about { $now } now
trial-visits = { $wanted } visits ({ $so-far } so far)
trial-days = { $wanted } days ({ $so-far } so far)
outcome-no-rating = No rating yet: ask for the first one.
outcome-early = Too early to say. A fair trial needs { $missing }.
outcome-early-levels = Too early to say: { $levels }. A fair trial needs { $missing }.
outcome-early-worse = Worse than at the start ({ $first }, now { $last }), from { $ratings }. Ask again before continuing.
outcome-better-noticeable = Better by { NUMBER($points, minimumFractionDigits: 1, maximumFractionDigits: 1) } points ({ $levels }; { $change }). This is a noticeable change.
outcome-better = Better by { NUMBER($points, minimumFractionDigits: 1, maximumFractionDigits: 1) } points ({ $levels }; { $change }). There is about a { $chance } in 10 chance that it is noticeable.
outcome-worse = Worse by { NUMBER($points, minimumFractionDigits: 1, maximumFractionDigits: 1) } points ({ $levels }; { $change }). Change the plan, or refer.
outcome-no-change = No real change after { $visits } in { $days } ({ $levels }; { $change }). An improvement of { $points } points is unlikely (outside the 95% interval).
outcome-rising = It may be getting worse: { $levels }, { $change }. This is not certain yet; ask again within a week.
outcome-unclear = Not clear yet: { $levels }, { $change }. There is about a { $chance } in 10 chance of a noticeable improvement.
outcome-unclear-carried = Not clear yet: { $levels }, { $change }. There is about a { $chance } in 10 chance of a noticeable improvement. Part of it may be the lasting effect of recent sessions. Ratings on the days between sessions would show the difference.
outcome-with-practice = With { $people } earlier people of this practice, who changed by { $mean } points on average: { $trend } ({ $middle } points, { $low } to { $high }; about { $start } at the start).
outcome-with-practice-stopped = With { $people } earlier people of this practice, { $stopped } of whom stopped coming, who changed by { $mean } points on average: { $trend } ({ $middle } points, { $low } to { $high }; about { $start } at the start).

caution-began-at-worst = It started at its worst. People tend to come when it is worst, so about { NUMBER($points, minimumFractionDigits: 1, maximumFractionDigits: 1) } points of the improvement may have happened anyway.
caution-many-complaints = One of { $complaints } complaints is better. With { $complaints } complaints, one would look better by chance in { $per-cent }% of people even if nothing had changed.
caution-other-care = Other care started meanwhile: { $care }. It is not clear which made the difference.
care-on-day = { $care } ({ $day })
caution-season = { $days } days have passed. The season has changed, which can have an effect of its own.
caution-rising = It may be getting worse, from about { $start } to about { $now }. This is a warning, not a result.
caution-few-ratings = Only { $ratings }: the next one or two can change this.
caution-raters = Rated by { $first } at first and by { $last } now. People use the numbers differently, so the interval is wider.
caution-gap = { $days } days without a rating, from { $from } to { $to }. It is not known what else happened in that time, so the interval is wider.
caution-asked-elsewhere = The ratings at the start and now were given in different settings (at a visit, at home), where people answer differently.
caution-near-none = It started close to 0, so there was little room to improve.
caution-carried = Part of this may be the lasting effect of recent sessions: about { NUMBER($points, minimumFractionDigits: 1, maximumFractionDigits: 1) } points of it, { NUMBER($most, minimumFractionDigits: 1, maximumFractionDigits: 1) } at most. Ratings between sessions, or a longer gap, will show what lasts.
caution-carried-some = Part of this may be the lasting effect of recent sessions: some of it, { NUMBER($most, minimumFractionDigits: 1, maximumFractionDigits: 1) } at most. Ratings between sessions, or a longer gap, will show what lasts.

relief = Each session brings about { $points } of relief ({ $low } to { $high })
relief-none-higher = After a session the rating is about { $points } higher ({ $low } to { $high })
relief-unknown = Relief per session is not known yet.
relief-unknown-needs = Rate before and after each session.
relief-not-clear = No clear relief per session ({ $low } to { $high } points).
relief-uncertain = { $relief }, but this is not certain yet.
relief-needs-sessions = That needs { $sessions } sessions rated before and after.
relief-needs-effect = That needs a clearer effect.
relief-length-unclear = { $relief }. It is not clear yet how long it lasts.
relief-needs-home = That needs { $wanted } ratings from home in the days after sessions ({ $so-far } so far).
relief-stays = { $relief }, and much of it remains until the next one: half lasts at least { $time }.
relief-needs-intervals = Longer intervals would show how long.
relief-length-wide = { $relief }. It is not clear yet how long it lasts: anything from { $low } to { $high } is possible.
relief-needs-days = Ratings on the first three days after a session would show this best.
relief-fades = { $relief }; half of it wears off after { $time } ({ $low } to { $high }).

step-continue = Continue
step-change-plan = Change the plan
step-space-out = Space out sessions
step-finish = Finish
step-refer = Refer
step-ask-again = Ask again
no-ratings = no ratings
change-points = { $middle } points, { $low } to { $high }
about-level = about { $level }
points-of-relief = { NUMBER($points, minimumFractionDigits: 1, maximumFractionDigits: 1) } points
lasts-at-least = { $time } (at least { $least })
point-on-side = { $name } { $side }
change-never-eased = Points that never eased: { $points }. Leave them out, or work around them.
change-approach = Another approach than { $approach }.
change-time-of-day = Another time of day: all sessions were in the { $part ->
    [morning] morning
    [afternoon] afternoon
   *[evening] evening
}.
change-closer = Sessions closer together: relief wears off after { $time }, and sessions are { $every } apart.

episodes-none = No episodes recorded.
episodes-so-far = { $count ->
    [one] 1 episode so far. A comparison needs a week of entries before the first session and one since.
   *[other] { $count } episodes so far. A comparison needs a week of entries before the first session and one since.
}
episodes-fewer = Fewer: { NUMBER($before, minimumFractionDigits: 1, maximumFractionDigits: 1) } per week before the first session, { NUMBER($since, minimumFractionDigits: 1, maximumFractionDigits: 1) } since ({ $middle }% of the earlier rate, { $low }% to { $high }%).
episodes-more = More: { NUMBER($before, minimumFractionDigits: 1, maximumFractionDigits: 1) } per week before the first session, { NUMBER($since, minimumFractionDigits: 1, maximumFractionDigits: 1) } since ({ NUMBER($middle, minimumFractionDigits: 1, maximumFractionDigits: 1) } times the earlier rate, { NUMBER($low, minimumFractionDigits: 1, maximumFractionDigits: 1) } to { NUMBER($high, minimumFractionDigits: 1, maximumFractionDigits: 1) }).
episodes-unclear = Not clear yet: { NUMBER($before, minimumFractionDigits: 1, maximumFractionDigits: 1) } per week before the first session, { NUMBER($since, minimumFractionDigits: 1, maximumFractionDigits: 1) } since (between { NUMBER($low, minimumFractionDigits: 1, maximumFractionDigits: 1) } and { $high } times).
any-number = any number
episodes-silent = { $episodes } Periods without entries are not counted: they may have been good, or not recorded.

home-practice-none = No home pressing recorded.
home-practice = Pressed at home on { $days } of the last { $of } days.
home-practice-minutes = Pressed at home on { $days } of the last { $of } days, about { $minutes } minutes per week.

needed-enough = Ratings vary by about { NUMBER($scatter, minimumFractionDigits: 1, maximumFractionDigits: 1) } points. There are enough ratings; it now needs time. Ask once a week for three more weeks.
needed-too-few-before = Ratings vary by about { NUMBER($scatter, minimumFractionDigits: 1, maximumFractionDigits: 1) } points. With { $baseline } at baseline, no number of ratings can now show a change of { $points } points. Compare from now on: ask twice a week for three weeks, change the plan, and ask again.
needed-more = Ratings vary by about { NUMBER($scatter, minimumFractionDigits: 1, maximumFractionDigits: 1) } points, so { $more ->
    [one] 1 more is
   *[other] { $more } more are
} needed to detect a change of { $points } points. Ask on Mondays and Thursdays for { $weeks ->
    [one] a week
   *[other] { $weeks } weeks
}.

question-pressed = After { $with } sessions with { $name }, the next rating changed by { $change-with }; after { $without } without it, by { $change-without }. Much else differed, so ask, and try it both ways.

soreness-too-few = too few ratings to say
soreness-gone = no longer sore
soreness-eases = eases over the visits
soreness-eases-in-sessions = eases during the session and returns
soreness-stays = unchanged
soreness-grows = getting more sore

next-screening = Screening
next-complaints = Add a complaint
next-rate-before = Rate before
next-measures = Measurements
next-compose = Compose
next-treat = Treat
next-rate-after = Rate after
next-take-away = Write up
due-screening = no screening yet
due-screening-again = screening is out of date
due-no-session = no session: see screening
due-complaint = no complaint yet
due-measures = measurements missing

