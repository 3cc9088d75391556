//! The whole building in the browser: what is put on walls, corners, schedules, and the faults between trades.

use anyhow::Result;
use kame_e2e::{Browser, Kame};

async fn open(kame: &Kame, path: &str) -> Result<Browser> {
    let b = Browser::start(1280, 800).await?;
    b.client.goto(&format!("{}{path}", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    Ok(b)
}

async fn put(b: &Browser, kind: &str) -> Result<()> {
    b.click("[data-test=add]").await?;
    b.until(&format!(
        "const x = [...document.querySelectorAll('.p-menu-item-link')].find(x => x.textContent.trim() === '{kind}'); if (!x) return false; x.click(); return true"
    ))
    .await
}

async fn how(b: &Browser) -> Result<()> {
    b.eval("[...document.querySelectorAll('[data-test=panels] button')].at(-1).click()").await?;
    b.wait("[data-question]").await.map(drop)
}

async fn findings(b: &Browser) -> Result<()> {
    b.eval("document.querySelectorAll('[data-test=panels] button')[1].click()").await?;
    b.wait("section.findings").await.map(drop)
}

fn told(code: &str) -> String {
    format!("return [...document.querySelectorAll('[data-test=finding]')].some(f => f.textContent.includes('{code}'))")
}

#[tokio::test]
async fn a_pipe_is_put_on_the_wall_flashed_and_a_surface_patch_is_told() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.press("w").await?;
    put(&b, "Pipe").await?;
    b.until("return !!document.querySelector('[data-opening=P1]') && [...document.querySelectorAll('.rail [data-step]')].some(e => e.dataset.step === 'P1/boot')").await?;
    b.until_text("[data-test=verdict]", "Dry by this order").await?;
    how(&b).await?;
    b.choose("#q-P1-face", "A patch on the surface only").await?;
    findings(&b).await?;
    b.until(&told("F24")).await?;
    b.click("[data-test=undo]").await?;
    b.until(&told("F24").replace("return ", "return !")).await?;
    b.end().await
}

#[tokio::test]
async fn a_corner_is_put_in_drawn_and_kept_clear() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.press("w").await?;
    b.fill("[data-test=wall-width]", "30'").await?;
    b.until("return !document.querySelector('[data-test=undo]').disabled").await?;
    b.fill("[data-test=add-corner] input[placeholder='Wall to its right']", "Estuary wall").await?;
    b.fill("[data-test=add-corner] input[placeholder='Corner at']", "200").await?;
    b.until_text("[data-test=corner-line]", "Estuary wall").await?;
    b.until("return [...document.querySelectorAll('.rail [data-step]')].some(e => e.dataset.step === 'corners')")
        .await?;
    b.fill("[data-test=left]", "190").await?;
    b.until_text("[data-test=error]", "round the corner").await?;
    b.end().await
}

#[tokio::test]
async fn a_schedule_is_looked_at_taken_over_and_undone() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.press("w").await?;
    b.fill("[data-test=wall-width]", "60'").await?;
    b.until("return !document.querySelector('[data-test=undo]').disabled").await?;
    b.click("[data-test=to-schedule]").await?;
    b.wait("[data-test=schedule]").await?;
    b.eval("const f = new File(['Ref,Type,Width,Height,Sill\\nS1,window,36,48,32\\nS2,window,36,48,32\\nS3,window,,48,32\\n'], 's.csv'); const d = new DataTransfer(); d.items.add(f); const i = document.querySelector('[data-test=schedule-file]'); i.files = d.files; i.dispatchEvent(new Event('change'))").await?;
    b.until_text("[data-test=bad-rows]", "Row 4:").await?;
    b.until_text("[data-test=take-schedule]", "Take 2 over").await?;
    b.click("[data-test=take-schedule]").await?;
    b.until("return document.querySelectorAll('[data-opening]').length === 3").await?;
    b.click("[data-test=undo]").await?;
    b.until("return document.querySelectorAll('[data-opening]').length === 1").await?;
    b.end().await
}

#[tokio::test]
async fn the_faults_between_trades_are_made_on_purpose_and_told() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    let made = [
        ("gap", "Battens", ""),
        ("furring", "Tight against sills, heads and corners", "F35"),
        ("ends", "Open without screen", "F37"),
        ("fixing", "Driven home", "F36"),
        ("cladding", "Plaster", ""),
        ("gap", "Nothing", "F34"),
    ];
    for (question, choice, code) in made {
        how(&b).await?;
        b.choose(&format!("#q--{question}"), choice).await?;
        if !code.is_empty() {
            findings(&b).await?;
            b.until(&told(code)).await?;
        }
    }
    b.end().await
}

#[tokio::test]
async fn the_station_shows_every_wall_and_one_line_a_cause() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/4").await?;
    b.press("0").await?;
    b.until("return document.querySelectorAll('[data-test=corner-line]').length === 4").await?;
    b.press("r").await?;
    b.until_text("[data-test=verdict]", "Water gets in").await?;
    for code in ["F24", "F30", "F35"] {
        b.until(&told(code)).await?;
    }
    b.until_text("[data-test=places]", "places: P6").await?;
    b.end().await
}
