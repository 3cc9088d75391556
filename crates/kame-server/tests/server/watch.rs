//! Watches over a piece of work that has to end: where it does not, what was asked is printed and the whole run ends.

use std::io::Write;
use std::sync::{Arc, Condvar, Mutex, PoisonError};
use std::time::{Duration, Instant};

/// Nothing that is tested takes nearly so long, on a machine three times slower than usual either.
const PATIENCE: Duration = Duration::from_secs(60);

/// Work that is watched until this is let go of. With `KAME_SLOWEST` set, what takes longest is told.
pub struct Watch {
    done: Arc<(Mutex<bool>, Condvar)>,
    began: Instant,
}

/// The slowest so far.
static SLOWEST: Mutex<Duration> = Mutex::new(Duration::ZERO);

impl Watch {
    /// Begins to watch; `asked` says what is worked at.
    pub fn over(asked: impl FnOnce() -> String) -> Self {
        let (done, text) = (Arc::new((Mutex::new(false), Condvar::new())), asked());
        let watched = Arc::clone(&done);
        std::thread::spawn(move || {
            let (lock, told) = &*watched;
            let ended = lock.lock().unwrap_or_else(PoisonError::into_inner);
            let (ended, _) =
                told.wait_timeout_while(ended, PATIENCE, |ended| !*ended).unwrap_or_else(PoisonError::into_inner);
            if !*ended {
                let _ = writeln!(std::io::stderr(), "not done after {} s:\n{text}", PATIENCE.as_secs());
                std::process::abort();
            }
        });
        Self { done, began: Instant::now() }
    }
}

impl Drop for Watch {
    fn drop(&mut self) {
        *self.done.0.lock().unwrap_or_else(PoisonError::into_inner) = true;
        self.done.1.notify_all();
        let (took, mut slowest) = (self.began.elapsed(), SLOWEST.lock().unwrap_or_else(PoisonError::into_inner));
        if took > *slowest {
            *slowest = took;
            if std::env::var_os("KAME_SLOWEST").is_some() {
                eprintln!("slowest so far: {:.2} s", took.as_secs_f64());
            }
        }
    }
}
