//! Who looks at a job is told when it changes.

use axum::response::sse::{Event, KeepAlive, Sse};
use futures_util::stream::{Stream, unfold};
use std::convert::Infallible;
use tokio::sync::broadcast;
use tokio::sync::broadcast::error::RecvError;

/// Changes that a slow listener can be behind before it is told to look anew.
const BEHIND: usize = 64;

#[derive(Clone, Copy, Debug)]
enum Notice {
    Changed { job: i64, revision: i64 },
    End,
}

/// Where changes are told.
#[derive(Clone, Debug)]
pub struct Changes(broadcast::Sender<Notice>);

impl Default for Changes {
    fn default() -> Self {
        Self(broadcast::channel(BEHIND).0)
    }
}

impl Changes {
    /// A job has a new revision. That nobody listens is no fault.
    pub fn tell(&self, job: i64, revision: i64) {
        self.0.send(Notice::Changed { job, revision }).ok();
    }

    /// Nothing more comes.
    pub fn end(&self) {
        self.0.send(Notice::End).ok();
    }

    /// Begins to listen: what changes from here on is not missed.
    pub fn listen(&self) -> Listener {
        Listener(self.0.subscribe())
    }
}

/// Somebody who listens.
pub struct Listener(broadcast::Receiver<Notice>);

impl Listener {
    /// Every new revision of a job as it comes, from the one it has; who fell behind is told 0 and has to look anew.
    pub fn of(self, job: i64, now: i64) -> Sse<impl Stream<Item = Result<Event, Infallible>> + use<>> {
        let heard = self.0;
        let stream = unfold((heard, Some(now)), move |(mut heard, first)| async move {
            if let Some(now) = first {
                return Some((Ok(event(now)), (heard, None)));
            }
            loop {
                match heard.recv().await {
                    Ok(Notice::Changed { job: of, revision }) if of == job => {
                        return Some((Ok(event(revision)), (heard, None)));
                    }
                    Ok(Notice::Changed { .. }) => {}
                    Err(RecvError::Lagged(_)) => return Some((Ok(event(0)), (heard, None))),
                    Ok(Notice::End) | Err(RecvError::Closed) => return None,
                }
            }
        });
        Sse::new(stream).keep_alive(KeepAlive::default())
    }
}

fn event(revision: i64) -> Event {
    Event::default().event("revision").data(revision.to_string())
}
