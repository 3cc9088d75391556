//! Kame in a real browser. One program, so that it is built once.

mod building;
mod main_job;
mod people;
mod practice;
mod repair;
mod schools;
mod screens;
mod shell;
mod site;
mod truck;

use anyhow::Result;
use kame_e2e::{Browser, Kame};

/// A page of a running Kame; on the screens of a wall once the wall is there.
async fn open(kame: &Kame, path: &str) -> Result<Browser> {
    let b = Browser::start(1280, 800).await?;
    b.client.goto(&format!("{}{path}", kame.url)).await?;
    if path.starts_with("/jobs/") && path.matches('/').count() == 2 {
        b.wait("[data-test=verdict]").await?;
    }
    Ok(b)
}
