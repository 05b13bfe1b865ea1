# Around every page.
skip = Skip to the page
views = Views
places = Places
keys = Keys
units-us = US units: switch to metric
units-metric = Metric units: switch to US
headlamp = Headlamp
paper = Paper
account = Account
account-title = { $name }: your account
sign-out = Sign out
signed-in-as = Signed in as { $name }
look-on = You look on: your role does not let you { $right }.
pages = Pages
page-before = Page before
page-after = Next page
found-follow-ups = Page { $page } of { $pages }, { $found ->
    [one] 1 follow-up
   *[other] { $found } follow-ups
}
found-entries = Page { $page } of { $pages }, { $found ->
    [one] 1 entry
   *[other] { $found } entries
}
