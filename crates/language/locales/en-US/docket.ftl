docket = Docket
docket-new = New job
docket-raised = Raised by logs
docket-rules = Rules
docket-search = Name or address
docket-search-hint = name or address
docket-show = Show
docket-narrow = Narrow down, order, archive
docket-any = any
docket-archive = Archive
docket-worst = Worst
docket-due = Due
docket-person = Person
docket-structure = Structure
docket-order = Order
docket-looking = { $n ->
    [one] 1 more job changed and is looked through again; until then it is listed as it stood.
   *[other] { $n } more jobs changed and are looked through again; until then they are listed as they stood.
}
docket-no-more = There are no more jobs.
docket-first = To the first
docket-no-words = No job’s name or address holds “{ $words }”.
docket-no-such-words = No such job’s name or address holds “{ $words }”.
docket-all = All jobs
docket-no-archive = Nothing is in the archive. A job that is done with goes there from its row.
docket-back = To the docket
docket-none-so = No job stands so.
docket-none = No jobs yet.
docket-none-more = Open one: a name, the kind of structure, the climate and the coldest outdoor temperature to plan for. Under a minute, and the building is drawn for you.
docket-row-worst = worst: { $word }
docket-row-archived = In the archive since { $day }.
docket-row-archived-until = In the archive since { $day }, to be erased on { $until }.
docket-row-no-visit = No visit yet: start the first round.
docket-row-open = Visit { $visit } is open since { $moment }, { $readings ->
    [one] 1 reading
   *[other] { $readings } readings
}.
docket-row-finished = Visit { $visit } finished on { $day }.
docket-row-due = Due { $day }
docket-row-overdue = Overdue { $day }
docket-go-on = Go on
docket-round = Round
docket-at = at { $name }
docket-pin = Pin
docket-pinned = Pinned
docket-put-away = Archive
docket-put-back = Put back
docket-found = Page { $page } of { $pages }, { $found ->
    [one] 1 job
   *[other] { $found } jobs
}
docket-soon = Due within two weeks
docket-overdue = overdue
docket-done = Done
docket-more-due = And { $n } more.
docket-calendar = All that is to be looked at again, and as a calendar
docket-removed = Removed
docket-removed-kept = Kept for { $days } days.
docket-restore = Restore
