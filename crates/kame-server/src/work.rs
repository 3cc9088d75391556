//! Where work is done: off the async threads, in places of bounded size. Each place has threads of its own, so that what takes long in one holds up
//! nobody in another. Work ends when its limit runs out or nobody listens any more; where a place is full, who comes is told when to come again.

use crate::problem::Fault;
use kame_core::job::Job;
use kame_core::length::Length;
use kame_core::stop::Stop;
use std::sync::Arc;
use std::time::Duration;
use tokio::sync::{OwnedSemaphorePermit, Semaphore};
use tokio::time::{sleep, timeout};

/// How much one place does.
#[derive(Clone, Copy, Debug)]
pub struct Room {
    /// Pieces of work at the same time.
    pub running: usize,
    /// Pieces of work that wait.
    pub waiting: usize,
    /// Threads for what one piece of work does side by side.
    pub threads: usize,
    /// By how much its threads stand back behind others, 0 to 19.
    pub nice: i32,
    /// A search ends with the best it has after so long.
    pub hurry: Duration,
    /// Everything ends after so long.
    pub limit: Duration,
}

/// A place where work is done.
#[derive(Clone)]
pub struct Place {
    room: Room,
    places: Arc<Semaphore>,
    running: Arc<Semaphore>,
    threads: Arc<rayon::ThreadPool>,
}

/// When to come again where a place is full, in seconds.
const COME_AGAIN_S: u32 = 2;

impl Place {
    fn new(name: &'static str, room: Room) -> Result<Self, rayon::ThreadPoolBuildError> {
        let threads = rayon::ThreadPoolBuilder::new()
            .num_threads(room.threads)
            .thread_name(move |i| format!("{name}-{i}"))
            .start_handler(move |_| stand_back(room.nice))
            .build()?;
        Ok(Self {
            room,
            places: Arc::new(Semaphore::new(room.running + room.waiting)),
            running: Arc::new(Semaphore::new(room.running)),
            threads: Arc::new(threads),
        })
    }

    /// Does a piece of work, and stops it when nobody waits for it any more.
    ///
    /// # Errors
    /// What the work says; [`Fault::Busy`] where the place is full, [`Fault::TooLong`] where the work does not end in time.
    pub async fn run<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Stop) -> Result<T, Fault> + Send + 'static,
    ) -> Result<T, Fault> {
        self.run_for(self.room.hurry, self.room.limit, work).await
    }

    /// The same with limits of its own.
    ///
    /// # Errors
    /// As [`Place::run`].
    pub async fn run_for<T: Send + 'static>(
        &self,
        hurry: Duration,
        limit: Duration,
        work: impl FnOnce(&Stop) -> Result<T, Fault> + Send + 'static,
    ) -> Result<T, Fault> {
        let held = self.turn().await?;
        let stop = Stop::default();
        let gone = OnDrop(stop.clone());
        let threads = Arc::clone(&self.threads);
        let (seen, mut task) = {
            let stop = stop.clone();
            let work = move || {
                // Held until the work has really ended, whoever still waits for it.
                let _held = held;
                threads.install(|| work(&stop))
            };
            (gone.0.clone(), tokio::task::spawn_blocking(work))
        };
        let ended = |r: Result<Result<T, Fault>, tokio::task::JoinError>| {
            let answer = r.unwrap_or_else(|e| Err(Fault::Internal(e.to_string())));
            if answer.is_err() && seen.is_stopped() { Err(too_long(limit)) } else { answer }
        };
        tokio::select! {
            done = &mut task => return ended(done),
            () = sleep(hurry.min(limit)) => stop.hurry(),
        }
        match timeout(limit.saturating_sub(hurry), &mut task).await {
            Ok(done) => ended(done),
            Err(_) if gone.0.stop() => Err(too_long(limit)),
            // It is being kept just now: who is told that it took too long must not find it done.
            Err(_) => ended(task.await),
        }
    }

    /// Does something that is quickly done and needs no threads of its own, such as reading from the store.
    ///
    /// # Errors
    /// What the work says; [`Fault::Busy`] where the place is full.
    pub async fn quickly<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> Result<T, Fault> + Send + 'static,
    ) -> Result<T, Fault> {
        let held = self.turn().await?;
        let work = move || {
            let _held = held;
            work()
        };
        tokio::task::spawn_blocking(work).await.unwrap_or_else(|e| Err(Fault::Internal(e.to_string())))
    }

    /// Waits for a place and holds it: for work whose answer comes bit by bit.
    ///
    /// # Errors
    /// [`Fault::Busy`] where the place is full.
    pub fn hold(&self) -> Result<Held, Fault> {
        Ok(Held { _place: self.enter()?, place: self.clone() })
    }

    /// A place in the queue, where there is one.
    fn enter(&self) -> Result<OwnedSemaphorePermit, Fault> {
        let full = |_| Fault::busy("Kame has its hands full just now: others are waiting for long work.", COME_AGAIN_S);
        Arc::clone(&self.places).try_acquire_owned().map_err(full)
    }

    /// Waits for a turn. Who hangs up while waiting leaves the queue.
    async fn turn(&self) -> Result<[OwnedSemaphorePermit; 2], Fault> {
        let place = self.enter()?;
        let slot = Arc::clone(&self.running).acquire_owned().await.map_err(|e| Fault::Internal(e.to_string()))?;
        Ok([place, slot])
    }
}

/// A place that is held.
pub struct Held {
    place: Place,
    _place: OwnedSemaphorePermit,
}

impl Held {
    /// Does the work when it is its turn. Whoever stops it does so by the sign; after the limit it is stopped.
    pub async fn run(self, stop: Stop, hurry: Duration, limit: Duration, work: impl FnOnce() + Send + 'static) {
        let Ok(slot) = Arc::clone(&self.place.running).acquire_owned().await else { return };
        let threads = Arc::clone(&self.place.threads);
        let mut task = tokio::task::spawn_blocking(move || {
            let _held = (self, slot);
            threads.install(work);
        });
        tokio::select! {
            _ = &mut task => return,
            () = sleep(hurry.min(limit)) => stop.hurry(),
        }
        if timeout(limit.saturating_sub(hurry), &mut task).await.is_err() {
            stop.stop();
        }
    }
}

fn too_long(limit: Duration) -> Fault {
    let s = limit.as_secs();
    Fault::TooLong(format!(
        "This takes longer than {s} s, the most that one question may take: ask about less at once."
    ))
}

/// Stops what it belongs to when it is let go of.
struct OnDrop(Stop);

impl Drop for OnDrop {
    fn drop(&mut self) {
        self.0.stop();
    }
}

/// Lets others go first: on Linux each thread has a niceness of its own.
fn stand_back(nice: i32) {
    #[cfg(target_os = "linux")]
    if nice > 0 {
        // Where it cannot be, work is done all the same.
        let _ = rustix::process::setpriority_process(Some(rustix::thread::gettid()), nice);
    }
    #[cfg(not(target_os = "linux"))]
    let _ = nice;
}

/// Where the server does its work.
#[derive(Clone)]
pub struct Works {
    /// Reading, changing and showing jobs of ordinary size.
    pub small: Place,
    /// The same for large buildings.
    pub large: Place,
    /// What takes long for any: nights, nesting, comparing, downloads, layups from elsewhere.
    pub long: Place,
}

/// Jobs of no more openings and penetrations, on walls no longer, are of ordinary size.
const ORDINARY: (usize, Length) = (60, Length::inch(3600));

impl Works {
    /// Places for the machine it runs on, where nothing takes longer than `longest`.
    ///
    /// # Errors
    /// Where threads cannot be made.
    pub fn new(longest: Option<Duration>) -> Result<Self, rayon::ThreadPoolBuildError> {
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        let s = Duration::from_secs;
        let room = |running, waiting, nice, hurry, limit| Room {
            running,
            waiting,
            threads: cores,
            nice,
            hurry: s(hurry),
            limit: longest.map_or(s(limit), |l| l.min(s(limit))),
        };
        Ok(Self {
            small: Place::new("small", room(2 * cores, 512, 0, 1, 30))?,
            large: Place::new("large", room(cores, 32, 5, 1, 60))?,
            long: Place::new("long", room(cores, 16, 15, 20, 120))?,
        })
    }

    /// Where a job's everyday questions are answered.
    pub fn of(&self, job: &Job) -> &Place {
        let ordinary = job.openings.len() <= ORDINARY.0 && job.wall.width <= ORDINARY.1;
        if ordinary { &self.small } else { &self.large }
    }
}
