# What is wrong with something that was entered or asked for, and what to do about it.


# api/access.py
access-screen-locked-unlock-continue = The screen is locked. Unlock it to continue.
access-enter-password-or-pin = Enter the password or the PIN.
access-incorrect-password = Incorrect password.

# api/account.py
account-there-no-such-open-session = there is no such open session of yours
account-two-step-verification-already-on = Two-step verification is already on. Turn it off first to set it up again.
account-nothing-waiting-confirmed = Nothing is waiting to be confirmed.
account-practice-requires-two-step-verification = This practice requires two-step verification.

# api/atlas.py
atlas-used-remove-there-first = { $id } is used for { $complaint }; remove it there first
atlas-duplicate-entry = duplicate entry { $row }

# api/booking.py
booking-enter-reason-word-or-two = Enter a reason, in a word or two.

# api/complaints.py
complaints-there-no-region-there = there is no region '{ $region }'; there are { $known }

# api/compose.py
compose-overrides-turned-off-practice-they = { $signed }: overrides are turned off in this practice. They can be enabled in the practice rules.
compose-there-no-score-yet-compose = There is no score yet. Compose one first.

# api/findings.py
findings-not-on = { $id } is not on the { $side }
findings-not-direction-there-there = '{ $name }' is not a direction there; there are { $directions }
findings-finding-belongs-another-person = this finding belongs to another person

# api/knowledge.py
knowledge-used-persons-record-so-cannot = “{ $id }” is used in a person's record, so it cannot be removed. Nothing was changed.

# api/passkeys.py
passkeys-passkey-belongs-someone-else = This passkey belongs to someone else.

# api/people.py
people-gives-impossible-age-check-year = { $born } gives an impossible age; check the year
people-does-not-treat-here = { $name } does not treat here.
people-does-not-match-persons-first = This does not match the person's first name, so nothing was erased.
people-enter-your-password-only-owner = Enter your password. Only an owner can erase a record without it.

# api/screening.py
screening-record-medical-clearance-with-who = Record medical clearance with who gave it and until when, not among the answers
screening-does-not-need-clearance-at = “{ $flag }” does not need clearance at present
screening-future-cannot-have-been-cleared = { $given_on } is in the future; it cannot have been cleared yet
screening-clearance-ended-on-ask-new = the clearance ended on { $until }; ask for a new one
screening-clearance-would-end-before-given = the clearance would end before it was given
screening-there-no-clearance = there is no clearance for this

# api/staff.py
staff-turn-off-your-own-two = Turn off your own two-step verification under Your account.
staff-leave-practice-from-your-own = Leave the practice from your own account.

# api/take_away.py
take-away-visit-no-score-yet-so = This visit has no score yet, so there is nothing to print.
take-away-there-no-group-there = there is no group '{ $group }'; there are { $groups }
take-away-there-no-body-part-there = there is no body part '{ $part }'; there are { $parts }
take-away-choose-points-group-or-body = Choose points, a group or a body part.
take-away-there-no-view-there = there is no view '{ $facing }'; there are { $facings }
take-away-there-nothing-group-yet = there is nothing in this group yet

# cli.py
cli-person-json-object = { $path }: a person is a JSON object
cli-person-there-no-key-there = person: there is no key '{ $key }'; there are { $person_keys }
cli-person-age-years-from = person.age: years from 0 to 120
cli-must-json-object = { $key }: must be a JSON object
cli-request-json-object = { $request }: a request is a JSON object
cli-event-line-invalid = { $events }, line { $number }: { $where }: { $problem }

# core/atlas/areas/chart.py
error-of = { $id }: { $said }
chart-outline-leaves-surface = the outline leaves the surface

# core/atlas/areas/grid.py
grid-there-no-surface = there is no surface '{ $surface }'
grid-no-grid = the { $name } has no grid '{ $id }'; it has { $grids }
grid-no-line = the { $name } has no line '{ $id }'

# core/atlas/drawing/lines_plate.py
lines-plate-no-feature-lines-ear-ear = the { $name } has no feature lines; ear, ear_back and face have

# core/atlas/drawing/sheet.py
sheet-there-no-sheet-there = there is no sheet '{ $id }'; there are { $sheets }
sheet-tradition-nothing-on-sheet = the { $tradition } tradition has nothing on the sheet '{ $id }'

# core/atlas/entries/catalogue.py
error-at = { $where }: { $said }
catalogue-mentions-landmark-which-does-not = { $where } mentions the landmark '{ $name }', which does not exist
catalogue-rests-on-there = { $id } rests on '{ $source }'; there are { $sources }
catalogue-lies-on-site-which-does = { $id } lies on the site '{ $site }', which does not exist
catalogue-row-invalid = { $id }: { $path }: { $problem }
catalogue-lies-grid-which-does-not = { $row } lies in the grid '{ $name }', which does not exist
catalogue-answers-which-does-not-exist = { $id } answers to '{ $answers }', which does not exist
catalogue-lies-over-which-does-not = { $id } lies over '{ $other }', which does not exist
catalogue-lies-on-surface-which-does = { $id } lies on the surface '{ $surface }', which does not exist
catalogue-there-no-point-or-area = there is no point or area '{ $id }'; search finds them by name

# core/atlas/entries/cross_section.py
cross-section-there-two-cross-sections = there are two cross-sections for '{ $id }'

# core/atlas/entries/preferred.py
preferred-no-place-there = { $id } has no place '{ $alternative }'; there are: { $known }
preferred-there-no-point-prefer-place = there is no point '{ $id }' to prefer a place for

# core/atlas/locating/finding.py
finding-spot-cm-from-finding-at = the spot is { NUMBER($norm, minimumFractionDigits: 1, maximumFractionDigits: 1) } cm from { $id }; a finding can be at most { $farthest_mm } cm away

# core/atlas/locating/own.py
own-own-id-begins-with-own = an own id begins with own_ and goes on in small letters, digits and _
own-field-invalid = { $id }: { $path }: { $said }
own-rule-nested-too-deep-or = { $id }: the rule is nested too deep or too long to be read
own-corner-lies-off-surface-u = { $id }: a corner lies off the surface; u and v run from 0 to 1
own-level-not-on-which-cun = { $id }: level { $cun } is not on the { $name }, which is { $cun_2 } cun long
own-cannot-placed = { $id } cannot be placed ({ $build }): { $said }
own-cannot-placed-rule-no-end = { $id } cannot be placed ({ $build }): the rule has no end
own-cannot-placed-rule-leads-nowhere = { $id } cannot be placed ({ $build }): the rule leads nowhere
own-lies-cm-off-skin-end = { $id } lies { NUMBER($off, minimumFractionDigits: 1, maximumFractionDigits: 1) } cm off the skin ({ $build }); end the rule with a 'skin' form

# core/atlas/locating/ways.py
ways-there-no-channel-there = there is no channel '{ $channel }'; there are { $channels }

# core/body/catalogue.py
catalogue-defined-twice = '{ $key }' is defined twice
catalogue-does-not-exist = the { $kind } '{ $id }' does not exist

# core/body/features.py
features-line-no-step = the line '{ $id }' has no step { $mark }
features-no-vertex-no-middle-vertices = '{ $step }' is no vertex and no middle of vertices

# core/body/figure.py
figure-ray-from-inside-body-does = a ray from inside the body does not reach the skin; the rule starts outside
figure-body-no-joint = the body has no joint '{ $name }'
figure-body-no-vertex = the body has no vertex { $number }

# core/body/flat.py
flat-vertex-does-not-lie-on = vertex { $number } does not lie on this surface
flat-there-no-skin-lay-flat = there is no skin to lay flat
flat-no-edge-joins-vertices = no edge joins the vertices { $names }
flat-chain-does-not-close-around = the chain does not close around its inside

# core/body/frames.py
frames-no-body-part-directions-there = no body part '{ $name }' has directions; there are { $frames }
frames-not-direction-here-there = '{ $name }' is not a direction here; there are { $frame }

# core/body/person.py
person-there-no-measure-there = there is no measure '{ $name }'; there are { $body_measures }
person-measure-out-of-range = { $name } is { $value } { $unit }; it can be { $low } to { $high } { $unit }

# core/body/places.py
places-there-no-landmark = there is no landmark '{ $name }'
places-there-no-segment = there is no segment '{ $name }'
places-distance-leads-off-body = the distance leads off the body
places-distance-leads-around-body-off = the distance leads around the body and off it
places-there-no-line = there is no line '{ $line }'

# core/body/pose.py
pose-there-no-pose-there = there is no pose '{ $pose }'; there are { $poses }

# core/body/regions.py
regions-region-lies-around-which-does = the region { $id } lies around '{ $name }', which does not exist
regions-paint-between-places = paint between 1 and { $most_painted } places
regions-there-places-on-figure = there are { $count } places on a figure

# core/body/skeleton.py
skeleton-bone-defined-twice = a bone is defined twice: { $name }

# core/body/surface_path.py
surface-path-there-no-way-over-skin = there is no way over the skin between these places

# core/compose/choose/brief.py
brief-complaint-refused = { $name }: { $reason }
brief-answer-first = { $name_of }: answer “{ $asked }” first

# core/compose/choose/candidates.py
candidates-pinned-but-not-possible-unpin = { $id } is pinned but not possible: { $why } Unpin it to use the next best point
candidates-nothing-these-complaints-choose-another = { $name } has nothing for these complaints; choose another school
candidates-no-point-pressed = no point can be pressed: { $reason } { $near }

# core/compose/choose/composer.py
composer-area-marked-on-figure-read = an area is marked on the figure: it is read on the person's body first

# core/compose/choose/one_stop.py
stop-refused = { $id }: { $reason }
one-stop-cannot-reached-any-remaining-position = { $id } cannot be reached in any remaining position. { $reason }

# core/compose/choose/reasons.py
reasons-points-pinned-unpin-some = { $count } points are pinned. { $reasons } Unpin some
reasons-minutes-too-short-pinned-points = { $there } minutes is too short for the pinned points ({ $names }): allow { NUMBER($minutes, maximumFractionDigits: 0) } or more, or unpin one
reasons-pinned-points-cannot-treated-together = the pinned points ({ $names }) cannot be treated together on { $parts }; unpin one
reasons-minutes-too-short-talking-rating = { $there } minutes is too short: talking, rating, settling in and closing take { $minutes_words }. Allow at least { NUMBER($minutes, maximumFractionDigits: 0) } minutes

# core/compose/choose/request.py
request-minutes-too-short-settling-pressing = { $minutes } minutes is too short: settling in, pressing and closing need { $shortest_min }. Allow { $shortest_min } minutes, or press one point from the home sheet
request-listed-twice-list-once-with = { $id } is listed twice; list it once, with its side
request-both-pinned-avoided-remove-from = { $id } is both pinned and avoided; remove it from one of the lists

# core/compose/home/plan.py
plan-not-allowed-or-out-persons = { $english } is not allowed, or is out of this person's reach.

# core/compose/knowledge/complaints.py
complaints-begins-with-which-not-among = { $id } begins with '{ $point }', which is not among its { $ground }
complaints-uses-technique-which-does-not = { $id } uses the technique '{ $technique }', which does not exist
complaints-asks-which-no-question-screening = { $id } asks for '{ $question }', which is no question of the screening
complaints-cores-yaml-names-complaint-which = cores.yaml names the complaint '{ $id }', which does not exist
complaints-there-no-complaint-there = there is no complaint '{ $id }'; there are { $near }

# core/compose/knowledge/dose_text.py
dose-text-dose-have-at-most-characters = a dose can have at most { $longest_text } characters
dose-text-invalid = “{ $text }”: { $where }: { $problem }
dose-text-enter-whole-number = “{ $found }”: enter a whole number
dose-text-not-understood-try-example = “{ $phrase }” was not understood. Try for example: { $examples }

# core/compose/knowledge/layer.py
layer-there-no-school-there = there is no school '{ $id }'; there are { $schools }
layer-practice-complaint-id-like-own = “{ $id }”: a practice complaint has an id like own_stage_cough
layer-neither-complaint-nor-school-so = “{ $id }” is neither a complaint nor a school, so it cannot be edited
layer-there-no-dose = there is no dose '{ $default_dose }'

# core/compose/knowledge/school.py
school-school-names-which-does-not = school '{ $id }' names the { $what } '{ $name }', which does not exist
school-school-no-phase-with = school '{ $id }' has no phase with '{ $kind }'

# core/compose/knowledge/technique.py
technique-technique-lies-on-which-does = technique '{ $id }' lies on '{ $site }', which does not exist
technique-technique-moves-which-does-not = technique '{ $id }' moves '{ $joint }', which does not exist
technique-technique-takes-dose-which-does = technique '{ $id }' takes the dose '{ $dose }', which does not exist

# core/compose/score/arrange.py
stop-not-done-in-position = { $id }: { $reason }
arrange-not-done = { $name } is not done { $position_words }
stop-side = { $id }: { $sides }
arrange-cannot-reached = { $id } cannot be reached { $position_words }
stop-refused-overridable = { $id }: { $reason }{ $override }
stop-one-side-only = { $id }: { $reason }
arrange-level-above-maximum = { $id }: level { $level } is above the maximum of { $ceiling }. { $ceiling_reasons }
arrange-no-pressing-stick-here = { $id }: no pressing stick here. { $ceiling_reasons }
arrange-no-gliding-strokes-above-level = { $id }: no gliding strokes above level 1 here.
arrange-at-most-s = { $id }: at most { $longest_s } s. { $longest_why }

# core/compose/score/protocol.py
protocol-there-no-score-save = there is no score to save
protocol-nothing-allowed-person = nothing in “{ $name }” is allowed for this person

# core/compose/score/score.py
score-there-no-technique = there is no technique '{ $id }'
score-score-have-at-most-stops = a score can have at most { $max_stops } stops; this one has { $count }
score-two-stops-have-same-key = two stops have the same key
score-at-level-above-its-maximum = { $where }: { $id } is at level { $level }, above its maximum { $ceiling }
score-starts-or-lasts-beyond-any = { $where }: { $id } starts or lasts beyond any session

# core/follow/diary.py
diary-in-the-future = This is in the future.
diary-long-before-diary-started-mention = This was long before the diary started. Mention it at your next visit.
diary-episode-must-end-after-started = An episode must end after it started, and not in the future.

# core/safety/alarms.py
alarms-alarms-yaml-asks-which-no = alarms.yaml asks for '{ $flag }', which is no question

# core/safety/body_parts.py
body-parts-body-yaml-names-which-does = body.yaml names '{ $name }', which does not exist

# core/safety/pressure.py
pressure-there-no-level-there = there is no level { $level }; there are 1 to { $count }
pressure-level-g-not-between-g = level { $level }: { $grams } g is not between { $low } and { $high } g
pressure-with-these-readings-level-no = with these readings, level { $upper } is no firmer than level { $lower }; measure both again

# core/safety/reach.py
reach-figure-places-not-one = a figure has { $count } places; { $max } is not one

# core/safety/screening.py
screening-screening-there-no-question = screening: there is no question '{ $key }'
screening-there-no-body-part-there = there is no body part '{ $part }'; there are { $part_names }
screening-n-cm-not-between = { $part }: { $n_per_cm2 } N/cm² is not between { $low } and { $high }
screening-screening-must-list-question-ids = screening: { $where } must be a list of question ids
screening-screening-not-red-flag = screening: '{ $id }' is not a red flag
screening-one-of-choices = { $where }: one of { $choices }
screening-must-left-right-or-both = { $where }: must be left, right or both
screening-list-of-positions = { $where }: a list of { $lying }
screening-must-true-or-false = { $where }: must be true or false
screening-whole-number-from = { $where }: { $unit }, a whole number from { $low } to { $high }
screening-two-whole-numbers-mmhg-upper = { $where }: two whole numbers in mmHg, the upper one first, as [125, 80]
screening-true-or-list-up-places = { $where }: true, or a list of up to { $most_places } places
screening-answer-invalid = { $at }.{ $named }: { $problem }
screening-there-no-place-part-or = { $where }: there is no place '{ $place }'; a part ({ $part_names }) or a site of the atlas, with .left or .right for one side, or a painted place with its skin

# core/safety/soreness.py
soreness-soreness-yaml-names-which-does = soreness.yaml names '{ $site }', which does not exist

# core/safety/standing.py
standing-rule-asks-which-no-question = rule '{ $id }' asks for '{ $question }', which is no question
standing-rule-asks-which-no-place = rule '{ $id }' asks for '{ $place }', which is no place
standing-rule-touches-which-does-not = rule '{ $id }' touches '{ $name }', which does not exist
standing-standing-rule-give-your-own = '{ $id }' is a standing rule; give your own another id
standing-two-rules-have-same-id = two of the rules have the same id

# core/treat/fold.py
fold-before-session-started = “{ $kind }” before the session started
fold-after-session-ended = “{ $kind }” after the session ended
fold-score-no-stop = the score has no stop “{ $key }”
fold-at-stop-before-started = “{ $kind }” at a stop before it was started
fold-session-already-started = the session has already started
fold-screening-does-not-allow-session = the screening does not allow a session
fold-only-last-entry-undone = only the last entry can be undone
fold-left-today = “{ $key }” was left for today
fold-there-no-stop-there-on = there is no stop there on the { $side }
fold-there-no-such-direction-at = there is no such direction at this point
fold-stop-new-plan-key-already = a stop of the new plan has a key that is already used
fold-timer-running-pause-before-correcting = the timer is running; pause it before correcting the time

# core/treat/moves.py
moves-no-stop-started = “{ $kind }” before a stop was started

# core/treat/rest.py
rest-no-session-progress = no session is in progress

# core/treat/wrong.py
wrong-wrong-yaml-leads-which-neither = wrong.yaml leads to '{ $to }', which is neither a question nor an outcome
wrong-lays-person-which-not-known = '{ $id }' lays a person for '{ $lay }', which is not known
wrong-does-not-say-when-person = '{ $id }' does not say when a person is laid
wrong-not-asked-when-something-wrong = “{ $step }” is not asked when something is wrong

# exchange/course_csv.py
course-csv-file-empty = The file is empty.
course-csv-file-cannot-read-as-table = This file cannot be read as a table: { $error }.
course-csv-table-needs-header-row-two = The table needs a header row and two to forty columns.
course-csv-two-columns-have-same-heading = Two columns have the same heading. Give each its own name.
course-csv-there-rows-at-most-imported = There are { $count } rows; at most { $most_rows } can be imported at a time.
course-csv-there-no-column = There is no column “{ $head }”.

# exchange/dumps.py
dumps-exists-already-choose-another-file = { $path } exists already. Choose another file for the key.
dumps-file-error = { $path }: { $strerror }
dumps-not-age-recipient-begins-with = This is not an age recipient: it begins with age1.
dumps-file-with-key-cannot-read = { $identity_file }: this file with the key cannot be read.
dumps-holds-no-key-line-begins = { $identity_file } holds no key: a line that begins with AGE-SECRET-KEY-.
dumps-key-does-not-open-dump = This key does not open the dump, or the dump is damaged.

# exchange/letter_template.py
letter-template-template-have-at-most-characters = A template can have at most { $longest } characters.
letter-template-line = Line { $lineno }: { $said }
letter-template-line-cannot-used-letters = Line { $lineno }: “{ $said }” cannot be used in letters.
letter-template-line-there-no-filter = Line { $lineno }: there is no filter “{ $name }”.
letter-template-line-there-no-field = Line { $lineno }: there is no field “{ $attr }”.
letter-template-line-there-no-field-a = Line { $lineno }: there is no field “{ $name }”.
letter-template-line-loops-nested-too-deeply = Line { $lineno }: loops are nested too deeply.
letter-template-line-loop-needs-list = Line { $lineno }: a loop needs a list: { $lists }.
letter-template-there-no-field = There is no field “{ $unknown }”.
letter-template-letter-would-longer-than-characters = The letter would be longer than { $longest_text } characters.
letter-template-template-cannot-used = The template cannot be used: { $error }.

# exchange/record.py
record-moment-impossible = { $where }: { $moment } cannot be

# services/between/diary.py
diary-diary-ended-or-link-already = This diary has ended, or this link has already been used. Ask your practitioner for a new one.
diary-point-not-home-plan = this point is not in the home plan
diary-no-hours-were-agreed-diary = No hours were agreed for this diary.

# services/between/diary_links.py
diary-links-end-date-must-today-or = The end date must be today or later, within a year.
diary-links-person-no-such-open-complaint = This person has no such open complaint.
diary-links-diary-already-been-created-create = This diary has already been created. Create a new one: a link is shown only once.
diary-links-already-been-dealt-with = This has already been dealt with.
diary-links-enter-action-taken = Enter the action taken.

# services/between/home_plan.py
home-plan-no-home-pressing-allowed-now = No home pressing is allowed for now.
home-plan-plan-must-start-today-or = The plan must start today or later, and end after it starts.
home-plan-plan-last-at-most-one = A plan can last at most one year.
home-plan-times-day-needs-different-times = { $times_a_day } times a day needs { $times_a_day } different times.

# services/between/home_reports.py
home-reports-diary-reached-todays-limit-remaining = This diary has reached today's limit. The remaining entries will be sent tomorrow.
home-reports-no-longer-asked = This is no longer asked.
home-reports-there-no-such-episode = There is no such episode.
home-reports-not-asked = This is not asked.

# services/between/letters.py
letters-not-agreed-letters-record-consent = { $given_name } has not agreed to letters. Record the consent under Details first.
letters-enter-recipient = Enter a recipient.
letters-choose-what-letter-about = Choose what the letter is about.
letters-person-no-such-complaint = this person has no such complaint
letters-letter-have-at-most-characters = A letter can have at most { $longest_text } characters.
letters-no-longer-being-created = This is no longer being created.
letters-letter-no-pdf-not-ready = This letter has no PDF: it is not ready yet, or was imported with a record.
letters-letter-not-ready-yet = This letter is not ready yet.
letters-template-restored-another-window-reload = This template was restored in another window. Reload it.

# services/body/plates.py
plates-there-pages = there are { $count } pages

# services/calendar/booking.py
booking-appointment-cancelled-or-missed-book = This appointment was cancelled or missed. Book a new one.
booking-appointment-future-cancel-instead = This appointment is in the future. Cancel it instead.
booking-planned-visit-already-been-booked = This planned visit has already been booked or dropped.
booking-planned-visit-booked-cancel-appointment = This planned visit is booked. Cancel the appointment instead.
booking-no-one-practice-takes-appointments = No one in this practice takes appointments yet.
booking-appointment-changed-another-window-reload = This appointment was changed in another window. Reload and try again; nothing was overwritten.
booking-session-started-so-appointment-cannot = The session has started, so this appointment cannot be { $what }.
booking-appointments-booked-up-three-years = Appointments can be booked up to three years ahead.
booking-does-not-take-appointments = { $name } does not take appointments.

# services/calendar/feeds.py
feeds-there-no-calendar-at-address = There is no calendar at this address.

# services/follow/log.py
log-entry-already-been-corrected-reload = This entry has already been corrected. Reload the page.
day-in-the-future = { $day } is in the future
log-too-far-past = { $on_day } is too far in the past
log-entry-must-end-after-starts = An entry must end after it starts, within a year.
log-hours-slept = Hours slept: 0 to 24.

# services/people/complaints.py
complaints-not-offered = { $name }: { $not_offered }
complaints-no-side = { $name } has no side.
complaints-enter-who-when = { $checked } Enter who and when.
complaints-does-not-ask = { $name } does not ask '{ $flag }'
complaints-episode-cannot-begin-or-end = An episode cannot begin or end in the future.
complaints-episode-must-end-after-started = An episode must end after it started, or be ongoing.
complaints-at-most-activities-rated-choose = At most { $most_acts } activities can be rated. Choose those that matter most.

# services/people/file.py
file-date-future = This date is in the future.
file-no-consent-needed = No consent is needed for “{ $about }”.
file-parent-or-guardian-must-give = { $given_name } is { $age }. A parent or guardian must give this consent.
file-reply-cannot-due-before-letter = The reply cannot be due before the letter was sent.
file-reply-cannot-have-come-before = The reply cannot have come before the letter was sent.
file-both-same-record = Both are the same record.
file-does-not-match-first-name = This does not match the first name in the other record, so nothing was merged.
file-being-treated-merge-records-afterwards = { $given_name } is being treated. Merge the records afterwards.

# services/people/record_import.py
record-import-already-practice = { $given_name } is already in this practice.
record-import-event-record-already-belongs-another = An event in this record already belongs to another visit.

# services/practice/passkeys.py
passkeys-passkey-not-recognised-sign-with = This passkey is not recognised. Sign in with your password.
passkeys-took-too-long-or-already = This took too long, or was already used. Try again.
passkeys-account-have-at-most-passkeys = An account can have at most { $most_keys } passkeys. Remove one first.
passkeys-passkey-could-not-verified-try = The passkey could not be verified. Try again.
passkeys-you-have-no-such-passkey = you have no such passkey
passkeys-practice-requires-two-step-verification = This practice requires two-step verification. Set up another one first.

# services/practice/practice.py
practice-choose-at-least-one-working = Choose at least one working day.
practice-working-day-must-start-before = A working day must start before it ends, on a day from 0 (Monday) to 6.
practice-there-no-time-zone-choose = There is no time zone '{ $name }'. Choose one such as Europe/London.
practice-there-no-school = there is no school '{ $id }'
practice-there-already-place-called = There is already a place called { $name }.
practice-set-up-two-step-verification = Set up two-step verification for your own account first.

# services/practice/sign_in.py
sign-in-too-many-attempts-wait-five = Too many attempts. Wait five minutes, then try again.
sign-in-incorrect-email-or-password = Incorrect email or password.
sign-in-incorrect-code-enter-one-your = Incorrect code. Enter the one your authenticator shows now, or a recovery code.
sign-in-codes-from-your-authenticator-turned = Codes from your authenticator are turned off after ten wrong ones. Use a recovery code, or ask an owner of the practice to turn two-step verification off for you.
sign-in-enter = Enter { $asked }.
sign-in-password-needs-at-least-characters = A password needs at least { $least_letters } characters.
sign-in-password-repeats-same-few-characters = This password repeats the same few characters. Choose another one.
sign-in-password-contains-email-address-choose = This password contains the email address. Choose another one.
sign-in-use-three-or-four-unrelated = { $rstrip }. Use three or four unrelated words.
sign-in-no-pin-set-enter-your = No PIN is set. Enter your password.
sign-in-pin-off-after-five-wrong = The PIN is off after five wrong ones. Enter your password.
sign-in-incorrect-pin = Incorrect PIN.
sign-in-pin-too-easy-guess-choose = This PIN is too easy to guess. Choose another one.

# services/practice/staff.py
staff-link-been-used-or-expired = This link has been used or has expired. Ask for a new one.
staff-practice-needs-owner-make-someone = A practice needs an owner. Make someone else an owner first.
staff-email-already-used-another-account = This email is already used for another account.
staff-no-account-here = { $name } has no account here.
staff-no-one-signs-with-here = No one signs in with { $email } here.
staff-responsible-people-or-upcoming-appointments = { $name } is responsible for people or has upcoming appointments. Hand these over first.
staff-responsible-people-or-upcoming-appointments-a = { $name } is responsible for people or has upcoming appointments. Choose who takes them over.
staff-cannot-take-over-people = { $name } cannot take over people.

# services/ratings/import_csv.py
import-csv-rows-cannot-imported-nothing-saved = { $count } rows cannot be imported. Nothing was saved.

# services/ratings/rating.py
rating-there-no-such-activity-complaint = there is no such activity in this complaint
rating-there-no-such-rating-practice = there is no such rating in this practice
rating-rating-already-been-corrected-reload = This rating has already been corrected. Reload the page.
rating-rating-before-or-after-needs = a rating before or after needs its visit, one from home has none
rating-visit-another-persons = this visit is another person's

# services/request/here.py
here-no-one-signed = No one is signed in.
here-practice-requires-two-step-verification = This practice requires two-step verification. Set it up to continue.
here-record-will-erased-sealed-until = This record will be erased and is sealed until then.
here-not-one-your-people-open = This is not one of your people. To open the record, enter a reason.

# services/visit/composing.py
composing-session-started-so-its-score = The session has started, so its score can no longer be changed.
composing-complaint-another-persons = this complaint is another person's

# services/visit/person_screen.py
person-screen-screen-ended-ask-your-practitioner = This screen has ended. Ask your practitioner for a new code.
person-screen-code-not-recognised-mistyped-already = Code not recognised: it was mistyped, already used, or has expired.
person-screen-screen-person-available-only-during = A screen for the person is available only during a session.
person-screen-no-stop-started-yet = No stop has started yet.
person-screen-how-sore-from = How sore is it, from 0 to 10?

# services/visit/recompose.py
recompose-score-no-complaint-compose = the score has no complaint to compose for

# services/visit/treatment.py
treatment-score-changed-after-page-loaded = The score changed after this page was loaded. Reload and check it before you start. Nothing has started.
treatment-record-visit-closed = The record of this visit is closed.
treatment-screening-not-been-done-yet = the screening has not been done yet
treatment-screening-from-repeat-before-session = The screening is from { $answered_on }. Repeat it before the session.
treatment-entry-already-been-resolved = This entry has already been resolved.
treatment-there-no-such-disputed-entry = there is no such disputed entry at this visit

# services/visit/write_up.py
write-up-session-still-progress = The session is still in progress.
write-up-visit-future = This visit is in the future.
write-up-resolve-disputed-entries-first = Resolve the disputed entries first.
write-up-something-went-wrong-at-visit = Something went wrong at this visit. Note what you observed before closing the record.
write-up-record-still-open-edit-directly = This record is still open. Edit it directly.
write-up-enter-addendum = Enter the addendum.

# store/access.py
access-no-one-practice-id = no one in this practice has this id

# store/atlas.py
atlas-reload-try-again-nothing-overwritten = { $row } { $said }. Reload and try again; nothing was overwritten.
atlas-practice-have-up-points-areas = a practice can have up to { $most_own } points and areas of its own
atlas-there-no-own-point-or = there is no own point or area '{ $entry }' in this practice
atlas-changed-another-window-reload-try = { $entry } was changed in another window. Reload and try again; nothing was removed.

# store/booking.py
booking-there-no-such-visit-practice = there is no such visit in this practice
booking-there-no-such-place-practice = there is no such place in this practice
booking-there-no-such-planned-visit = there is no such planned visit in this practice

# store/complaints.py
complaints-there-no-such-episode-practice = there is no such episode in this practice

# store/compose.py
compose-practices-catalogue-changed-another-window = The practice's catalogue was changed in another window. Reload and try again; nothing was lost.
compose-there-no-such-draft-practice = there is no such draft in this practice
compose-visit-have-at-most-drafts = A visit can have at most { $most_drafts } drafts.
compose-there-no-such-protocol-practice = there is no such protocol in this practice
compose-there-already-protocol-called-choose = There is already a protocol called “{ $name }”. Choose another name.
compose-practice-have-at-most-protocols = A practice can have at most { $most_protocols } protocols.

# store/follow.py
follow-there-no-such-entry-practice = there is no such entry in this practice
follow-there-no-such-decision-practice = there is no such decision in this practice

# store/home.py
home-there-no-such-diary-practice = there is no such diary in this practice
home-nothing-kind-reported-practice = nothing of this kind was reported in this practice

# store/links.py
links-there-no-such-invitation-practice = there is no such invitation in this practice, or it has been used

# store/papers.py
papers-there-no-such-letter-practice = there is no such letter in this practice

# store/people.py
people-there-no-such-person-practice = there is no such person in this practice
people-changed-another-window-meantime-load = { $what } was changed in another window in the meantime. Load it again; nothing was overwritten.
people-there-no-such-complaint-practice = there is no such complaint in this practice

# store/visits.py
visits-record-visit-closed-add-addendum = The record of this visit is closed. Add an addendum instead.

# nested, or put together from several
own-thing-unknown = { $name } does not exist
places-landmark = landmark '{ $name }': { $said }
account-code-is-wrong = Incorrect code. Enter the one your authenticator shows now.
treatment-start-refused = The start was refused: { $reason }
treatment-new-plan-refused = The new plan was refused: { $reason }
preparing-stops-no-longer-allowed = { $count ->
    [one] One stop is no longer allowed, or too strong, after new answers. Compose again or edit the score.
   *[other] { $count } stops are no longer allowed, or too strong, after new answers. Compose again or edit the score.
}
dose-text-enter = Enter how to press, for example: { $examples }
fold-level-above-ceiling = level { $level } is above { $ceiling }. { $reason }
log-enter-medicine = Enter the medicine.
log-enter-event = Enter what happened.
file-upcoming-appointments = { $count ->
    [one] { $name } has an upcoming appointment. Cancel it first.
   *[other] { $name } has { $count } upcoming appointments. Cancel these first.
}
person-no-figure = There is no figure for age { $age }: figures are available from { $youngest } to { $oldest } years. Find the points by the person's own landmarks; limits are shown by region.

# api
roles-no-reading = Your role cannot see health records. An owner of the practice can change it.
roles-no-writing = Your role cannot change health records. An owner of the practice can change it.
roles-no-booking = Your role cannot manage appointments. An owner of the practice can change it.
roles-owner-only = Only an owner of the practice can do this.
too-many-requests = Too many requests from this device or network. Wait { $seconds } seconds, then try again. Nothing was changed.
no-database = The database is not responding. Nothing was lost. Please try again.
server-busy = The server is busy. Nothing was lost. Please try again in a moment.
already-exists-or-missing = This already exists, or the record it belongs to is missing.
value-cannot-be-stored = A value in the input cannot be stored.
invalid-input = Invalid input.
no-such-thing = There is no such { $thing } in this practice.
no-practice-here = There is no practice under this name here.
request-too-slow = Nothing more of the request arrived for { $seconds } seconds. Nothing was changed.
request-too-large = The request is larger than { $most }. Nothing was changed.
sign-in-first = Sign in first. Nothing was changed.
input-nested-too-deep = The input is nested more than { $levels } levels deep.
input-not-utf = The input is not UTF-8 text.
input-too-many-fields = The input has more than { $most } fields.
input-no-number = { $said } is not a usable number.
request-from-another-site = This request comes from another site.
session-ended = Your session has ended. Sign in again; your entries are still on this device.
page-out-of-date = The page is out of date. Reload it.
nothing-at-this-address = There is nothing at this address.
front-end-not-built = The front end is not built; ./acuthesis demo builds it.
