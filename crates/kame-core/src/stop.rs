//! Told from outside that work is to end: the core has no clock and knows nobody who listens.

use std::sync::Arc;
use std::sync::atomic::{AtomicU8, Ordering};

const GO_ON: u8 = 0;
const HURRY: u8 = 1;
const STOP: u8 = 2;
const TOO_LATE: u8 = 3;

/// What a stopped computation says. It is never shown: whoever stopped it knows why.
pub const STOPPED: &str = "stopped before it was done";

/// A sign that whoever computes looks at now and then. Copies are the same sign.
#[derive(Clone, Debug, Default)]
pub struct Stop(Arc<AtomicU8>);

impl Stop {
    /// A search ends with the best it has found; everything else goes on.
    pub fn hurry(&self) {
        self.0.fetch_max(HURRY, Ordering::Relaxed);
    }

    /// Nobody wants the answer any more: everything ends without one. False where that is too late.
    pub fn stop(&self) -> bool {
        self.0.fetch_max(STOP, Ordering::Relaxed) != TOO_LATE
    }

    /// From here on it is too late to stop, because something is about to be kept.
    ///
    /// # Errors
    /// [`STOPPED`] where it was stopped before: then nothing may be kept.
    pub fn is_kept_now(&self) -> Result<(), String> {
        let unless_stopped = |now| (now != STOP).then_some(TOO_LATE);
        let kept = self.0.fetch_update(Ordering::Relaxed, Ordering::Relaxed, unless_stopped);
        kept.map(|_| ()).map_err(|_| STOPPED.into())
    }

    /// True where a search is to end with what it has.
    pub fn is_hurried(&self) -> bool {
        self.0.load(Ordering::Relaxed) > GO_ON
    }

    /// True where nobody wants the answer.
    pub fn is_stopped(&self) -> bool {
        self.0.load(Ordering::Relaxed) == STOP
    }

    /// Goes on, or not.
    ///
    /// # Errors
    /// [`STOPPED`] where nobody wants the answer.
    pub fn check(&self) -> Result<(), String> {
        if self.is_stopped() { Err(STOPPED.into()) } else { Ok(()) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_stopped_keeps_nothing_and_what_is_kept_is_not_stopped() {
        let stopped = Stop::default();
        stopped.hurry();
        assert!(stopped.stop() && stopped.is_kept_now().is_err() && stopped.is_stopped());
        let kept = Stop::default();
        kept.hurry();
        assert!(kept.is_kept_now().is_ok() && !kept.stop() && !kept.is_stopped() && kept.check().is_ok());
    }
}
