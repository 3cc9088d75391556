//! Makes the pictures of the documentation from the demo job: `cargo run -p kame-e2e --bin pictures -- docs/screenshots`.

use anyhow::Result;
use kame_e2e::{Browser, Kame};
use std::path::PathBuf;

#[tokio::main]
async fn main() -> Result<()> {
    let folder = PathBuf::from(std::env::args().nth(1).unwrap_or_else(|| "docs/screenshots".into()));
    let kame = Kame::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let shot = |name: &str| folder.join(format!("{name}.png"));
    b.client.goto(&kame.url).await?;
    b.wait("[data-test=job]").await?;
    b.picture(&shot("jobs")).await?;

    b.client.goto(&format!("{}/jobs/2", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.eval("document.querySelector('[data-step=\"W1/pan\"] .name').click()").await?;
    b.until_text("[data-test=card]", "stretch membrane").await?;
    b.wait("[data-test=card] [data-test=step-picture]").await?;
    b.until("return !document.querySelector('[data-piece=\"W1/unit\"]') && !!document.querySelector('[data-piece=\"W1/pan\"]')").await?;
    b.picture(&shot("step")).await?;
    b.press("\u{e010}").await?;
    b.press("s").await?;
    b.press("r").await?;
    b.press("r").await?;
    b.until("return document.querySelectorAll('[data-test=finding]').length > 0 && !!document.querySelector('[data-test=section] svg')").await?;
    b.picture(&shot("section")).await?;

    b.client.goto(&format!("{}/jobs/1", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.press("r").await?;
    b.wait("[data-test=way]").await?;
    b.picture(&shot("leak")).await?;
    b.client.goto(&format!("{}/jobs/2/cut-list", kame.url)).await?;
    b.wait("[data-test=cut-list] table").await?;
    b.picture(&shot("cut-list")).await?;

    // Four openings in four recipes: how they are made, evenings, the stack drawn apart, schools side by side, a step sheet, the strategy.
    b.client.goto(&format!("{}/jobs/3", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.press("0").await?;
    b.press("n").await?;
    b.wait("[data-test=night]").await?;
    b.eval("document.querySelector('[data-step=\"W3/head\"] .name').click()").await?;
    b.until_text("[data-test=night-card]", "Cover Reading window").await?;
    b.picture(&shot("tonight")).await?;
    b.press("n").await?;
    b.press("\u{e010}").await?;
    b.eval("[...document.querySelectorAll('[data-test=panels] button')].at(-1).click()").await?;
    b.wait("[data-question=sill]").await?;
    for _ in 0..6 {
        b.press("s").await?;
    }
    b.wait("[data-test=exploded]").await?;
    b.picture(&shot("apart")).await?;
    b.client.goto(&format!("{}/jobs/2/compare", kame.url)).await?;
    b.wait("[data-test=comparison]").await?;
    b.choose("#c-sill", "Soldered metal pan").await?;
    b.until_text("[data-test=comparison]", "Soldered metal pan").await?;
    b.picture(&shot("compare")).await?;
    b.client.goto(&format!("{}/jobs/3/steps", kame.url)).await?;
    b.wait("[data-test=sheet] [data-test=exploded]").await?;
    b.picture(&shot("step-sheet")).await?;
    b.client.goto(&format!("{}/jobs/3/start", kame.url)).await?;
    for answer in
        ["lap", "windy", "wet", "cool", "months", "one", "soon", "middle", "tight", "used", "plain", "none", "3 1/2"]
    {
        b.click(&format!("[data-answer=\"{answer}\"]")).await?;
    }
    b.wait("[data-test=advice]").await?;
    b.picture(&shot("strategy")).await?;
    b.client.goto(&format!("{}/jobs/4", kame.url)).await?;
    b.wait("[data-test=rows] [data-face-place]").await?;
    b.picture(&shot("building")).await?;
    b.eval("const r = document.querySelector('[data-test=scrub]'); r.value = 560; r.dispatchEvent(new Event('input', {bubbles: true}))").await?;
    b.eval("document.querySelectorAll('[data-test=building-form] button')[1].click()").await?;
    b.eval("document.querySelectorAll('[data-test=building-by] button')[1].click()").await?;
    b.until("return document.querySelectorAll('[data-test=scene] .place.finished').length > 2").await?;
    b.picture(&shot("building-folded")).await?;
    b.client.goto(&format!("{}/jobs/4/schedule", kame.url)).await?;
    b.wait("[data-test=schedule]").await?;
    b.eval("const f = new File(['Mark,Type,Width,Height,Sill,Room\\nS1,window,36,48,32,Net store\\nS2,hose tap,1 1/2,,12,Yard\\nS3,window,,48,32,Wet lab\\nS4,chimney,10,10,10,Roof\\n'], 'schedule.csv'); const d = new DataTransfer(); d.items.add(f); const i = document.querySelector('[data-test=schedule-file]'); i.files = d.files; i.dispatchEvent(new Event('change'))").await?;
    b.wait("[data-test=bad-rows]").await?;
    b.picture(&shot("schedule")).await?;
    b.client.goto(&format!("{}/jobs/4/truck", kame.url)).await?;
    b.click("[data-line=\"Flashing tape\"]").await?;
    b.wait("[data-test=line-more]").await?;
    b.eval("document.querySelector('[data-line=\"Adhered barrier sheet\"]').scrollIntoView()").await?;
    b.picture(&shot("order")).await?;
    b.client.goto(&format!("{}/jobs/4/truck/days", kame.url)).await?;
    b.wait("[data-test=days]").await?;
    b.eval("window.scrollTo(0, 0)").await?;
    b.picture(&shot("days")).await?;

    // On the wall: a phone writes down, the office reads.
    let phone = Browser::phone(390, 844).await?;
    phone.client.goto(&format!("{}/jobs/3/site/W1", kame.url)).await?;
    phone.fill("[data-test=who]", "Ada").await?;
    for n in 2..8 {
        phone.until("const e = document.querySelector('[data-test=done]'); if (!e || e.disabled) return false; e.click(); return true").await?;
        phone.until_text("[data-test=step-of]", &format!("Step {n} of")).await?;
    }
    phone.eval("document.querySelector('.places, [data-test=all-places]').click()").await?;
    phone.click("[data-site-place=W2]").await?;
    phone.until("const e = document.querySelector('[data-site-check=opening-width]'); e?.click(); return !!e").await?;
    phone.until("for (const k of ['3', '6']) document.querySelector(`[data-key='${k}']`).click(); document.querySelector(\"[data-fraction='14']\").click(); return true").await?;
    phone.until_text("[data-test=says]", "too").await?;
    phone.picture(&shot("check")).await?;
    phone.click("[data-test=keep]").await?;
    phone.client.goto(&format!("{}/jobs/3/site/W1", kame.url)).await?;
    phone.until("const e = document.querySelector('[data-test=after]'); if (!e) return false; for (let i = 0; i < 4; i++) e.click(); return true").await?;
    phone.wait("[data-test=step-picture]").await?;
    phone.until_text("[data-test=waits]", "Everything is on record").await?;
    phone.picture(&shot("site")).await?;
    b.client.goto(&format!("{}/jobs/3/record", kame.url)).await?;
    b.wait("[data-entry]").await?;
    b.click("[data-test=verify]").await?;
    b.wait("[data-test=whole]").await?;
    b.picture(&shot("record")).await?;
    b.end().await?;
    phone.end().await?;

    let b = Browser::phone(390, 844).await?;
    b.client.goto(&format!("{}/jobs/1", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.eval("document.querySelectorAll('[data-test=weather] button')[1].click()").await?;
    b.wait("[data-test=way]").await?;
    b.picture(&shot("phone")).await?;
    b.end().await
}
