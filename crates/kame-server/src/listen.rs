//! Taking connections: no more at once than there is room for, none that says nothing for long, and an end that comes.

use crate::who::Peer;
use axum::Router;
use axum::http::Request;
use hyper::body::Incoming;
use hyper_util::rt::{TokioExecutor, TokioIo, TokioTimer};
use hyper_util::server::conn::auto::Builder;
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use std::sync::Arc;
use std::time::Duration;
use tokio::net::TcpListener;
use tokio::sync::Semaphore;
use tokio::time::{sleep, timeout};

/// How long others are waited for, and how many at once.
#[derive(Clone, Copy, Debug)]
pub struct Patience {
    /// Connections at once; more wait to be taken.
    pub connections: usize,
    /// A connection that has not said what it wants by then is closed, also between two requests.
    pub headers: Duration,
    /// A body whose next part does not come by then is not waited for.
    pub body: Duration,
    /// When it is to end, what is under way may take so long.
    pub last_answers: Duration,
    /// Where people sign in, who listens for changes has to ask anew after so long: a session that ended hears no more.
    pub listening: Duration,
}

impl Default for Patience {
    fn default() -> Self {
        let s = Duration::from_secs;
        Self { connections: 2048, headers: s(15), body: s(15), last_answers: s(5), listening: s(600) }
    }
}

/// After a connection could not be taken.
const TAKE_BREATH: Duration = Duration::from_millis(100);

/// Serves until `stop` resolves, then lets what is under way end for a while.
pub async fn serve(listener: TcpListener, router: Router, patience: Patience, stop: impl Future<Output = ()>) {
    let room = Arc::new(Semaphore::new(patience.connections));
    let mut how = Builder::new(TokioExecutor::new()).http1_only();
    how.http1().timer(TokioTimer::new()).header_read_timeout(patience.headers);
    let under_way = GracefulShutdown::new();
    let mut stop = std::pin::pin!(stop);
    loop {
        let taken = async {
            let place = Arc::clone(&room).acquire_owned().await;
            (place, listener.accept().await)
        };
        let (place, connection) = tokio::select! {
            taken = taken => taken,
            () = &mut stop => break,
        };
        let (Ok(place), Ok((stream, from))) = (place, connection) else {
            // Too many open files, or a connection that was gone before it was taken.
            sleep(TAKE_BREATH).await;
            continue;
        };
        // Small answers go out at once. That a socket cannot is no reason not to serve it.
        let _ = stream.set_nodelay(true);
        let peer = Peer(from.ip());
        let service = tower::ServiceBuilder::new()
            .map_request(move |mut request: Request<Incoming>| {
                request.extensions_mut().insert(peer);
                request
            })
            .service(router.clone());
        let service = TowerToHyperService::new(service);
        let connection = how.serve_connection(TokioIo::new(stream), service).into_owned();
        let connection = under_way.watch(connection);
        tokio::spawn(async move {
            // How a connection ends is the other side's affair.
            let _ = connection.await;
            drop(place);
        });
    }
    drop(listener);
    if timeout(patience.last_answers, under_way.shutdown()).await.is_err() {
        tracing::warn!("some answers were not waited for");
    }
}
