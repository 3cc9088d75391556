use anyhow::Result;
use kame_e2e::{Browser, Kame};
use std::path::PathBuf;
#[tokio::main]
async fn main() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let shot = |name: &str| PathBuf::from(format!("/tmp/shots/{name}.png"));
    b.client.goto(&format!("{}/jobs/4", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.press("0").await?;
    b.wait("[data-test=plan-key]").await?;
    b.picture(&shot("building")).await?;
    b.press("w").await?;
    b.eval("document.querySelector('[data-key-wall=\"1\"]').dispatchEvent(new MouseEvent('click', {bubbles: true}))")
        .await?;
    b.eval("document.querySelector('[data-test=top]').scrollIntoView()").await?;
    b.picture(&shot("gable")).await?;
    b.eval("document.querySelector('[data-test=filter]').click()").await?;
    b.choose("#filter-product", "Joint tape").await.ok();
    b.choose("#filter-trade", "Barrier crew").await?;
    b.picture(&shot("filter")).await?;
    b.client.goto(&format!("{}/jobs/2", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.press("w").await?;
    b.picture(&shot("sizes")).await?;
    b.end().await
}
