//! On the wall, on a phone: a whole opening without a signal from the second step on, and all of it on record when there is one again.

use anyhow::{Context, Result};
use kame_core::record::{Entry, verify};
use kame_e2e::{Browser, Kame};
use serde_json::Value;

async fn asked(kame: &Kame, path: &str) -> Result<Value> {
    Ok(reqwest::get(format!("{}{path}", kame.url)).await?.error_for_status()?.json().await?)
}

async fn begin(kame: &Kame, path: &str, who: &str) -> Result<Browser> {
    let b = Browser::phone(390, 844).await?;
    b.client.goto(&format!("{}{path}", kame.url)).await?;
    b.fill("[data-test=who]", who).await?;
    b.until_text("[data-test=site]", who).await?;
    Ok(b)
}

const CLICK: &str = "const e = document.querySelector";

#[tokio::test]
async fn a_whole_opening_is_done_without_a_signal_and_arrives_complete() -> Result<()> {
    let mut kame = Kame::start(true).await?;
    let b = begin(&kame, "/jobs/2/site", "Ada").await?;
    b.until_text("[data-test=waits]", "kept on this device").await?;
    b.click("[data-site-place=W1]").await?;
    // The first step with a signal: three widths, one of them off, judged by the core as it is typed.
    // Scrolled out from under the bar, as a thumb would.
    b.until("const e = document.querySelector('[data-site-check=opening-width]'); e.scrollIntoView({block: 'center'}); e.click(); return document.querySelector('[data-test=check-sheet]') !== null").await?;
    for (digits, part, good) in [("41", 0, ""), ("41", 8, "too much"), ("41", 2, "")] {
        for d in digits.chars() {
            b.click(&format!("[data-key='{d}']")).await?;
        }
        b.click(&format!("[data-fraction='{part}']")).await?;
        b.until_text("[data-test=says]", good).await?;
        if good == "too much" {
            b.click("[data-test=clear]").await?;
            b.click("[data-key='4']").await?;
            b.click("[data-key='1']").await?;
        }
        b.eval("document.querySelector('[data-test=next-reading]')?.click()").await?;
    }
    b.until_text("[data-test=says]", "As it should be").await?;
    b.click("[data-test=keep]").await?;
    b.click("[data-test=done]").await?;
    b.until_text("[data-test=step-of]", "Step 2 of").await?;
    b.until_text("[data-test=waits]", "Everything is on record").await?;
    // No signal: every other step, with somebody else's look where the work is held, and once a reason.
    kame.silence().await?;
    let steps = b
        .eval("return Number(document.querySelector('[data-test=step-of]').textContent.match(/of (\\d+)/)[1])")
        .await?;
    let steps = steps.as_u64().context("a number of steps")?;
    for n in 2..=steps {
        b.until_text("[data-test=step-of]", &format!("Step {n} of")).await?;
        let look = "const e = document.querySelector('[data-site-check=look-before-cover]')";
        if b.eval(&format!("{look}; return e !== null")).await? == Value::Bool(true) {
            b.eval(&format!("{look}; e.click()")).await?;
            b.wait("[data-test=other]").await?;
            b.until("return document.querySelector('[data-test=good]').disabled").await?;
            b.client.execute("const e = document.querySelector('[data-test=other]'); e.value = 'ada'; e.dispatchEvent(new Event('input'))", vec![]).await?;
            b.until("return document.querySelector('[data-test=good]').disabled").await?;
            b.client.execute("const e = document.querySelector('[data-test=other]'); e.value = 'Bo'; e.dispatchEvent(new Event('input'))", vec![]).await?;
            b.until(&format!("{CLICK}('[data-test=good]'); if (e.disabled) return false; e.click(); return true"))
                .await?;
            b.until("return document.querySelector('[data-test=check-sheet]') === null").await?;
        }
        b.until(&format!("{CLICK}('[data-test=done]'); if (e.disabled) return false; e.click(); return true")).await?;
    }
    b.until("return document.querySelector('[data-test=done]').disabled").await?;
    b.until_text("[data-test=waits]", "wait for a signal").await?;
    // The page is closed and opened again, still without a signal: nothing that was written down is gone.
    let waiting = b.eval("return document.querySelector('[data-test=waits] span').textContent.split(' ')[0]").await?;
    b.client.goto("about:blank").await?;
    b.client.goto(&format!("{}/jobs/2/site/W1", kame.url)).await?;
    b.until_text("[data-test=waits]", &format!("{} entries wait", waiting.as_str().context("a number")?)).await?;
    b.until("return document.querySelector('[data-test=done]').disabled").await?;
    kame.speak().await?;
    b.client.execute("dispatchEvent(new Event('online'))", vec![]).await?;
    b.until_text("[data-test=waits]", "Everything is on record").await?;
    let entries: Vec<Entry> = serde_json::from_value(asked(&kame, "/api/jobs/2/record").await?)?;
    assert!(verify(&entries).broken.is_none());
    let done: Vec<&str> = entries
        .iter()
        .filter(|e| e.event.what == kame_core::record::What::Done)
        .map(|e| e.event.step.as_str())
        .collect();
    assert_eq!(done.len() as u64, steps, "each step once: {done:?}");
    let stands = asked(&kame, "/api/jobs/2/stands?opening=W1").await?;
    let over = |s: &Value| matches!(s["now"].as_str(), Some("done" | "looked-at"));
    assert!(stands["steps"].as_array().context("steps")?.iter().all(over), "{stands}");
    assert!(entries.iter().any(|e| e.event.who == "Bo"), "somebody else looked");
    b.end().await
}

#[tokio::test]
async fn what_is_different_is_written_down_and_the_office_reads_it() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = begin(&kame, "/jobs/2/site/W1", "Ada").await?;
    b.click("[data-test=otherwise]").await?;
    b.until("return document.querySelector('[data-test=say-keep]').disabled").await?;
    b.client.execute("const e = document.querySelector('[data-test=note]'); e.value = 'header is out 3/8, shimmed'; e.dispatchEvent(new Event('input'))", vec![]).await?;
    b.until(&format!("{CLICK}('[data-test=say-keep]'); if (e.disabled) return false; e.click(); return true")).await?;
    b.until_text("[data-test=step-of]", "Step 2 of").await?;
    b.until_text("[data-test=waits]", "Everything is on record").await?;
    let office = Browser::start(1280, 800).await?;
    office.client.goto(&format!("{}/jobs/2/record", kame.url)).await?;
    office.until_text("[data-entry='1']", "header is out 3/8, shimmed").await?;
    office.until_text("[data-entry='1']", "done otherwise").await?;
    office.click("[data-test=verify]").await?;
    office.until_text("[data-test=whole]", "Whole: 1 entries").await?;
    // The wall as it is built is seen at once, and grows while somebody works at it.
    office.client.goto(&format!("{}/jobs/2", kame.url)).await?;
    office.click("[data-test=as-built]").await?;
    office.until_text("[data-test=count]", "1 of").await?;
    let was = office.text("[data-test=count]").await?;
    b.until(&format!("{CLICK}('[data-test=done]'); if (e.disabled) return false; e.click(); return true")).await?;
    office
        .until(&format!(
            "return document.querySelector('[data-test=count]').textContent.trim() !== {}",
            serde_json::json!(was)
        ))
        .await?;
    office.end().await?;
    b.end().await
}
