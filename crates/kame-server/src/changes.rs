//! Who looks at a job is told when it changes.

use crate::problem::Fault;
use axum::response::sse::{Event, KeepAlive, Sse};
use futures_util::stream::{Stream, StreamExt, unfold};
use kame_store::Standing;
use std::convert::Infallible;
use std::sync::Arc;
use std::time::Duration;
use tokio::sync::broadcast::error::RecvError;
use tokio::sync::{OwnedSemaphorePermit, Semaphore, broadcast};

/// Changes that a slow listener can be behind before it is told to look anew.
const BEHIND: usize = 64;

#[derive(Clone, Copy, Debug)]
enum Notice {
    Changed { job: i64, now: Standing },
    Recorded { job: i64, last: u64 },
    End,
}

/// Who may listen at once.
const MOST_LISTENERS: usize = 1000;

/// Where changes are told.
#[derive(Clone, Debug)]
pub struct Changes {
    told: broadcast::Sender<Notice>,
    room: Arc<Semaphore>,
}

impl Default for Changes {
    fn default() -> Self {
        Self { told: broadcast::channel(BEHIND).0, room: Arc::new(Semaphore::new(MOST_LISTENERS)) }
    }
}

impl Changes {
    /// A job has come further. That nobody listens is no fault.
    pub fn tell(&self, job: i64, now: Standing) {
        self.told.send(Notice::Changed { job, now }).ok();
    }

    /// The record of a job has grown up to this entry.
    pub fn tell_recorded(&self, job: i64, last: u64) {
        self.told.send(Notice::Recorded { job, last }).ok();
    }

    /// Nothing more comes.
    pub fn end(&self) {
        self.told.send(Notice::End).ok();
    }

    /// Begins to listen: what changes from here on is not missed.
    ///
    /// # Errors
    /// [`Fault::Busy`] where too many listen.
    pub fn listen(&self) -> Result<Listener, Fault> {
        let full = |_| Fault::busy(format!("{MOST_LISTENERS} listen for changes already, the most there may be."), 30);
        let place = Arc::clone(&self.room).try_acquire_owned().map_err(full)?;
        Ok(Listener { heard: self.told.subscribe(), place })
    }
}

/// Somebody who listens.
pub struct Listener {
    heard: broadcast::Receiver<Notice>,
    place: OwnedSemaphorePermit,
}

impl Listener {
    /// Every new standing of a job as it comes, from the one it has; who fell behind is told 0 and has to look anew.
    /// After `most` it ends, so that who listens asks anew and is let in anew.
    pub fn of(
        self,
        job: i64,
        now: Standing,
        most: Option<Duration>,
    ) -> Sse<impl Stream<Item = Result<Event, Infallible>> + use<>> {
        let Self { heard, place } = self;
        let stream = unfold((heard, Some(now), place), move |(mut heard, first, place)| async move {
            if let Some(now) = first {
                return Some((Ok(event(now)), (heard, None, place)));
            }
            loop {
                match heard.recv().await {
                    Ok(Notice::Changed { job: of, now }) if of == job => {
                        return Some((Ok(event(now)), (heard, None, place)));
                    }
                    Ok(Notice::Recorded { job: of, last }) if of == job => {
                        let told = Event::default().event("record").data(last.to_string());
                        return Some((Ok(told), (heard, None, place)));
                    }
                    Ok(Notice::Changed { .. } | Notice::Recorded { .. }) => {}
                    Err(RecvError::Lagged(_)) => {
                        let unknown = Standing { revision: 0, bench: 0 };
                        return Some((Ok(event(unknown)), (heard, None, place)));
                    }
                    Ok(Notice::End) | Err(RecvError::Closed) => return None,
                }
            }
        });
        let late = async move {
            match most {
                Some(most) => tokio::time::sleep(most).await,
                None => std::future::pending().await,
            }
        };
        Sse::new(stream.take_until(Box::pin(late))).keep_alive(KeepAlive::default())
    }
}

fn event(now: Standing) -> Event {
    Event::default().event("standing").data(format!("{{\"revision\":{},\"bench\":{}}}", now.revision, now.bench))
}
