//! Serves the simulated instruments: `kame devices` starts this, and so does the demo.

use anyhow::Context;
use clap::Parser;
use std::net::SocketAddr;

/// Simulated instruments with a local interface.
#[derive(Parser)]
#[command(version, about)]
struct Cli {
    /// Where to listen.
    #[arg(long, env = "KAME_DEVICES", default_value = "127.0.0.1:4610")]
    addr: SocketAddr,
    /// End when standard input does: with whoever started it, however that ends.
    #[arg(long)]
    attached: bool,
}

#[tokio::main]
async fn main() -> anyhow::Result<()> {
    let cli = Cli::parse();
    let listener = tokio::net::TcpListener::bind(cli.addr).await.with_context(|| {
        format!("cannot listen on {}; are instruments there already? KAME_DEVICES chooses another address", cli.addr)
    })?;
    println!("Instruments are at http://{}", listener.local_addr()?);
    let end = async move {
        if cli.attached {
            tokio::io::copy(&mut tokio::io::stdin(), &mut tokio::io::sink()).await.ok();
        } else {
            std::future::pending::<()>().await;
        }
    };
    tokio::select! {
        served = axum::serve(listener, kame_devices::router()) => served?,
        () = end => {}
    }
    // Whoever waits for a silent instrument is not waited for, nor is standard input.
    std::process::exit(0)
}
