//! A part of a page that fails must not take the page with it.

use std::panic::{AssertUnwindSafe, catch_unwind};

/// What `make` makes; `None` where it breaks, which the panic’s own line tells the log. Parts only read what they are given, so that nothing is
/// left half changed.
pub fn part<T>(name: &str, make: impl FnOnce() -> T) -> Option<T> {
    let _ = name; // what a debugger sees of it
    catch_unwind(AssertUnwindSafe(make)).ok()
}

#[cfg(test)]
mod tests {
    #[test]
    fn a_part_that_breaks_is_left_out() {
        let sides: Vec<i32> = Vec::new();
        assert_eq!(super::part("broken", || sides[3]), None);
        assert_eq!(super::part("whole", || 3), Some(3));
    }
}
