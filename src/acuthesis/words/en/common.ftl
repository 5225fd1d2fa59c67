# Words that several parts share.

side-left = left
side-right = right
side-both = both sides
side-midline = midline

# Lengths of time.
hours = { $hours ->
    [one] an hour
   *[other] { $hours } hours
}
days = { $days ->
    [one] a day
   *[other] { $days } days
}

points-of-scale = { $points ->
    [one] 1 point
   *[other] { NUMBER($points, maximumFractionDigits: 1) } points
}
ratings-counted = { $count ->
    [one] 1 rating
   *[other] { $count } ratings
}
visits-counted = { $count ->
    [one] 1 visit
   *[other] { $count } visits
}
sessions-counted = { $count ->
    [one] 1 session
   *[other] { $count } sessions
}
days-counted = { $count ->
    [one] 1 day
   *[other] { $count } days
}

# An interval of a change in points of the scale: all less, all more, or either.
change-less = probably { NUMBER($from, minimumFractionDigits: 1, maximumFractionDigits: 1) } to { NUMBER($to, minimumFractionDigits: 1, maximumFractionDigits: 1) } points less
change-more = probably { NUMBER($from, minimumFractionDigits: 1, maximumFractionDigits: 1) } to { NUMBER($to, minimumFractionDigits: 1, maximumFractionDigits: 1) } points more
change-either = between { NUMBER($less, minimumFractionDigits: 1, maximumFractionDigits: 1) } points less and { NUMBER($more, minimumFractionDigits: 1, maximumFractionDigits: 1) } points more
