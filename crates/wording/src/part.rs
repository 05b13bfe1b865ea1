//! A part of a page that fails must not take the page with it.

use std::panic::{AssertUnwindSafe, catch_unwind};

/// What `make` makes; `None` where it breaks, which the panic’s own line tells whoever runs it. Parts only read what they are
/// given, so that nothing is left half changed.
#[must_use]
pub fn part<T>(make: impl FnOnce() -> T) -> Option<T> {
    catch_unwind(AssertUnwindSafe(make)).ok()
}

#[cfg(test)]
mod tests {
    #[test]
    fn a_part_that_breaks_is_left_out() {
        let sides: Vec<i32> = Vec::new();
        assert_eq!(super::part(|| sides[3]), None);
        assert_eq!(super::part(|| 3), Some(3));
    }
}
