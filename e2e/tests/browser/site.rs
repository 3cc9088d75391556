//! On the wall, on a phone: a whole opening without a signal from the second step on, and all of it on record when there is one again.

use anyhow::{Context, Result};
use kame_core::record::{Entry, verify};
use kame_e2e::{Browser, Kame, building};
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

/// Clicks something as soon as it can be clicked.
async fn press(b: &Browser, css: &str) -> Result<()> {
    let css = serde_json::to_string(css)?;
    b.until(&format!(
        "const e = document.querySelector({css}); if (!e || e.disabled) return false; e.click(); return true"
    ))
    .await
}

/// Writes into a field.
async fn write(b: &Browser, css: &str, text: &str) -> Result<()> {
    let (css, text) = (serde_json::to_string(css)?, serde_json::to_string(text)?);
    b.eval(&format!("const e = document.querySelector({css}); e.value = {text}; e.dispatchEvent(new Event('input'))"))
        .await?;
    Ok(())
}

/// Types a number of inches in sixteenths, or another decimal number, on the keypad.
async fn type_number(b: &Browser, value: f64, inches: bool) -> Result<()> {
    let (whole, sixteenths) = (value.trunc(), ((value.fract() * 16.0).round()) as i64);
    let text = if inches { format!("{whole}") } else { format!("{value}") };
    for key in text.chars() {
        press(b, &format!("[data-key='{key}']")).await?;
    }
    if inches {
        press(b, &format!("[data-fraction='{sixteenths}']")).await?;
    }
    Ok(())
}

/// What one reads who works well: what is asked, or a little more.
fn good_reading(check: &Value) -> f64 {
    let number = |field: &str| check[field].as_f64();
    let times = number("times").unwrap_or(1.0);
    match check["judged"].as_str() {
        Some("within") => ((number("target").unwrap_or(0.0) / times) * 16.0).round() / 16.0,
        Some("least") => number("target").unwrap_or(0.0).ceil() + 1.0,
        _ => 34.0,
    }
}

/// Fills in one check of the step that is open, by its own sheet.
async fn fill(b: &Browser, check: &Value, photo: &std::path::Path) -> Result<()> {
    let (name, id) = (check["check"].as_str().context("a name")?, check["id"].as_str().context("an id")?);
    b.eval(&format!(
        "[...document.querySelectorAll('[data-site-check={name}]')].find((e) => e.dataset.siteId === {}).click()",
        serde_json::to_string(id)?
    ))
    .await?;
    b.wait("[data-test=check-sheet]").await?;
    if check["by"] == "other" {
        // One's own name does not do, however it is written.
        write(b, "[data-test=other]", "ada").await?;
        b.until("return document.querySelector('[data-test=good]').disabled").await?;
        write(b, "[data-test=other]", "Bo").await?;
    }
    if check["photo"] == true {
        let input = b.wait("[data-test=photo-file]").await?;
        input.send_keys(photo.to_str().context("a path")?).await?;
        b.wait("[data-test=check-sheet] img").await?;
    }
    match check["quantity"].as_str() {
        Some("look") => press(b, "[data-test=good]").await?,
        Some("lot") => {
            write(b, "[data-test=lot]", "L-417").await?;
            press(b, "[data-test=keep]").await?;
        }
        quantity => {
            let value = good_reading(check);
            for _ in 0..check["readings"].as_u64().unwrap_or(1) {
                type_number(b, value, quantity == Some("length")).await?;
                b.eval("document.querySelector('[data-test=next-reading]')?.click()").await?;
            }
            press(b, "[data-test=keep]").await?;
        }
    }
    b.until("return document.querySelector('[data-test=check-sheet]') === null").await
}

#[tokio::test]
async fn a_whole_opening_is_received_measured_set_checked_and_signed_without_a_signal_and_arrives_complete()
-> Result<()> {
    let mut kame = Kame::start(true).await?;
    let photo = a_photo(&kame).await?;
    let b = begin(&kame, "/jobs/2/site", "Ada").await?;
    b.until_text("[data-test=waits]", "kept on this device").await?;
    b.click("[data-site-place=W1]").await?;
    // The first step with a signal: three widths on the picture, one of them off, judged by the core as it is typed, and against the unit.
    press(&b, "[data-test=measure-open]").await?;
    for (value, says) in [(41.0, ""), (41.5, "too much"), (41.125, "As it should be")] {
        type_number(&b, value, true).await?;
        b.until_text("[data-test=says]", says).await?;
        if says == "too much" {
            press(&b, "[data-test=clear]").await?;
            type_number(&b, 41.0, true).await?;
        }
        press(&b, "[data-test=next-reading]").await?;
    }
    b.until_text("[data-test=fit]", "Fits: 1/2\" each side.").await?;
    press(&b, "[data-test=shims]").await?;
    b.wait("[data-test=shim]").await?;
    press(&b, "[data-test=keep]").await?;
    let checks = asked(&kame, "/api/jobs/2/checks?opening=W1").await?;
    let checks: Vec<Value> = checks.as_array().context("checks")?.clone();
    press(&b, "[data-test=done]").await?;
    b.until_text("[data-test=step-of]", "Step 2 of").await?;
    b.until_text("[data-test=waits]", "Everything is on record").await?;
    // No signal: every other step with everything that is measured, looked at, written off labels and photographed at it.
    kame.silence().await?;
    let steps = b
        .eval("return Number(document.querySelector('[data-test=step-of]').textContent.match(/of (\\d+)/)[1])")
        .await?;
    let steps = steps.as_u64().context("a number of steps")?;
    let mut filled = 0;
    for n in 2..=steps {
        b.until_text("[data-test=step-of]", &format!("Step {n} of")).await?;
        let step = b.eval("return document.querySelector('h2[data-step]').dataset.step").await?;
        for check in checks.iter().filter(|c| c["step"] == step) {
            fill(&b, check, &photo).await.with_context(|| check["id"].to_string())?;
            filled += 1;
        }
        press(&b, "[data-test=done]").await?;
    }
    assert!(filled > 30, "{filled} checks");
    b.until("return document.querySelector('[data-test=done]').disabled").await?;
    b.until_text("[data-test=waits]", "wait for a signal").await?;
    // The page is closed and opened again, still without a signal: nothing that was written down is gone, and what is old says so.
    let waiting = b.eval("return document.querySelector('[data-test=waits] span').textContent.split(' ')[0]").await?;
    b.client.goto("about:blank").await?;
    b.client.goto(&format!("{}/jobs/2/site/W1", kame.url)).await?;
    b.until_text("[data-test=waits]", &format!("{} entries wait", waiting.as_str().context("a number")?)).await?;
    b.until_text("[data-test=old]", "No signal. Shown as it was").await?;
    b.until("return document.querySelector('[data-test=done]').disabled").await?;
    kame.speak().await?;
    b.client.execute("dispatchEvent(new Event('online'))", vec![]).await?;
    b.until_text("[data-test=waits]", "Everything is on record").await?;
    let entries: Vec<Entry> = serde_json::from_value(asked(&kame, "/api/jobs/2/record").await?)?;
    assert!(verify(&entries).broken.is_none());
    let whole = asked(&kame, "/api/jobs/2/record/verify").await?;
    assert!(whole["broken"].is_null(), "photographs too: {whole}");
    assert!(entries.iter().any(|e| !e.event.photos.is_empty()));
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

/// A photograph as a phone has it: one that the demo's record keeps.
async fn a_photo(kame: &Kame) -> Result<std::path::PathBuf> {
    let record = asked(kame, "/api/jobs/3/record").await?;
    let all = record.as_array().context("entries")?;
    let hash = all.iter().find_map(|e| e["event"]["photos"][0].as_str()).context("a photograph")?;
    let bytes = reqwest::get(format!("{}/api/jobs/3/photos/{hash}", kame.url)).await?.bytes().await?;
    let file = kame.folder().join("taken.jpg");
    std::fs::write(&file, bytes)?;
    Ok(file)
}

#[tokio::test]
async fn what_is_different_is_asked_of_the_water_and_the_plan_follows() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = begin(&kame, "/jobs/2/site/W1", "Ada").await?;
    // The opening is wider than planned.
    press(&b, "[data-test=otherwise]").await?;
    press(&b, "[data-different=size]").await?;
    type_number(&b, 41.25, true).await?;
    press(&b, "[data-test=ask-water]").await?;
    b.until_text("[data-test=holds]", "It holds").await?;
    press(&b, "[data-test=say-keep]").await?;
    b.until_text("[data-test=step-of]", "Step 2 of").await?;
    b.until_text("[data-test=waits]", "Everything is on record").await?;
    let width = async || -> Result<Value> {
        let job = asked(&kame, "/api/jobs/2").await?;
        let openings = job["state"]["job"]["openings"].as_array().context("openings")?.clone();
        Ok(openings.into_iter().find(|o| o["id"] == "W1").context("W1")?["width"].clone())
    };
    while width().await? != "41 1/4 in" {
        tokio::task::yield_now().await;
    }
    // A step that is left out does not hold, and it is said before it is written down.
    let to_jambs = "const at = () => document.querySelector('h2[data-step]').dataset.step; if (at() === 'W1/jambs') return true; document.querySelector('[data-test=after]').click(); return false";
    b.until(to_jambs).await?;
    press(&b, "[data-test=otherwise]").await?;
    press(&b, "[data-different=out]").await?;
    write(&b, "[data-test=note]", "no tape left").await?;
    press(&b, "[data-test=ask-water]").await?;
    b.until_text("[data-test=holds]", "It does not hold.").await?;
    // A piece that went on otherwise is rained on as it is.
    press(&b, "[data-different=piece]").await?;
    press(&b, "[data-way=short-top]").await?;
    press(&b, "[data-test=ask-water]").await?;
    b.until_text("[data-test=holds]", "hold").await?;
    press(&b, "[data-test=say-keep]").await?;
    b.until_text("[data-test=waits]", "Everything is on record").await?;
    let deviation = async || -> Result<bool> {
        let job = asked(&kame, "/api/jobs/2").await?;
        Ok(job["state"]["job"]["as_built"].as_array().is_some_and(|d| d.iter().any(|d| d["kind"] == "short-top")))
    };
    while !deviation().await? {
        tokio::task::yield_now().await;
    }
    let record = asked(&kame, "/api/jobs/2/record").await?;
    let notes: Vec<&str> =
        record.as_array().context("entries")?.iter().filter_map(|e| e["event"]["note"].as_str()).collect();
    assert!(notes.iter().any(|n| n.starts_with("Width is 41 1/4\"")), "{notes:?}");
    b.end().await
}

#[tokio::test]
async fn a_damaged_unit_is_not_set_two_who_differ_both_see_it_and_one_walks_round() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = begin(&kame, "/jobs/3/site/W3", "Cy").await?;
    b.until_text("[data-test=held]", "Nothing that follows is done here").await?;
    assert_eq!(b.eval("return document.querySelector('[data-test=done]').disabled").await?, Value::Bool(true));
    b.wait("[data-test=damage]").await?;
    // Another unit came: looked at again, it goes on.
    press(&b, "[data-test=look-now]").await?;
    press(&b, "[data-test=mended]").await?;
    b.until_text("[data-test=held]", "Nothing that follows is done here").await?;
    press(&b, "[data-test=look-now]").await?;
    press(&b, "[data-test=good]").await?;
    b.until("return document.querySelector('[data-test=held]') === null && !document.querySelector('[data-test=done]').disabled")
        .await?;
    b.client.goto(&format!("{}/jobs/3/site/W1", kame.url)).await?;
    b.until_text("[data-test=differ]", "Ada Quill and Bo Marsh said different things").await?;
    b.client.goto(&format!("{}/jobs/3/walk", kame.url)).await?;
    b.until_text("[data-test=left]", "1 of").await?;
    press(&b, "[data-now=mend]").await?;
    press(&b, "[data-test=mended]").await?;
    b.until("return document.querySelector('[data-now=look-again]') !== null").await?;
    press(&b, "[data-now=look-again]").await?;
    press(&b, "[data-test=good]").await?;
    b.until_text("[data-test=left]", "0 of").await?;
    b.until("return document.querySelectorAll('[data-point]').length === 0").await?;
    // The office: what is wrong in the record is corrected by another entry, and photographs are seen.
    let office = Browser::start(1280, 800).await?;
    office.client.goto(&format!("{}/jobs/3/record", kame.url)).await?;
    office.until_text("[data-test=differ]", "Look again together").await?;
    office
        .until("const i = document.querySelector('.shots img'); return i !== null && i.complete && i.naturalWidth > 0")
        .await?;
    office
        .eval("[...document.querySelectorAll('[data-entry]')].find((r) => r.textContent.includes('Right end is high')).querySelector('button').click()")
        .await?;
    write(&office, "[data-test=right]", "The level stood on a splinter.").await?;
    press(&office, "[data-test=correct-keep]").await?;
    office.until("return document.querySelector('[data-test=differ]') === null").await?;
    office.end().await?;
    b.end().await
}

#[tokio::test]
async fn the_screens_at_the_wall_are_for_everybody() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = begin(&kame, "/jobs/3/site/W3", "Cy").await?;
    for (path, open, there) in [
        ("/jobs/3/site", None, "[data-site-place]"),
        ("/jobs/3/site/W3", None, "[data-test=held]"),
        ("/jobs/2/site/W1", Some("[data-test=measure-open]"), "[data-test=measure]"),
        ("/jobs/2/site/W1", Some("[data-test=otherwise]"), "[data-test=different]"),
        ("/jobs/2/site/W1", Some("[data-test=test-open]"), "[data-test=test-sheet]"),
        ("/jobs/2/site/W1", Some("[data-site-check=opening-wall]"), "[data-test=check-sheet]"),
        ("/jobs/3/walk", None, "[data-point]"),
        ("/jobs/3/record", None, "[data-entry]"),
    ] {
        b.client.goto(&format!("{}{path}", kame.url)).await?;
        if let Some(open) = open {
            press(&b, open).await?;
        }
        b.wait(there).await?;
        if path.contains("record") {
            b.is_for_everybody(path).await?;
        } else {
            b.is_for_the_sun(path).await?;
        }
        let small = b
            .eval("return [...document.querySelectorAll('.site-sheet button, .site button, .walk button')].filter((e) => e.offsetParent && (e.offsetHeight < 43.5 || e.offsetWidth < 32)).map((e) => e.outerHTML.slice(0, 120))")
            .await?;
        assert_eq!(small, serde_json::json!([]), "{path}: too small for a glove");
    }
    b.end().await
}

#[tokio::test]
async fn what_is_different_is_written_down_and_the_office_reads_it() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = begin(&kame, "/jobs/2/site/W1", "Ada").await?;
    press(&b, "[data-test=otherwise]").await?;
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

#[tokio::test]
async fn the_calendar_shows_who_does_what_when_and_why_and_follows_crews_and_deliveries() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    b.client.goto(&format!("{}/jobs/3/truck/days", kame.url)).await?;
    b.until_text("[data-test=calendar-says]", "Done Tue 24 Mar").await?;
    b.until_text("[data-test=calendar]", "W3 waits for another unit").await?;
    b.eval("[...document.querySelectorAll('[data-bar=D1]')].at(-1).dispatchEvent(new Event('click'))").await?;
    b.until_text("[data-test=chosen-bar]", "Look before it is covered").await?;
    b.until_text("[data-night-of]", "Cover Store door").await?;
    b.is_for_everybody("the calendar").await?;
    // The door comes two days sooner.
    press(&b, "[data-test=site-form-open]").await?;
    b.eval("const e = [...document.querySelectorAll('[data-test=site-form] input[type=date]')].at(-1); e.value = '2026-03-19'; e.dispatchEvent(new Event('input'))").await?;
    b.is_for_everybody("the crews").await?;
    press(&b, "[data-test=site-keep]").await?;
    b.until_text("[data-test=calendar-says]", "Done Thu 19 Mar").await?;
    b.client.goto(&format!("{}/jobs/3", kame.url)).await?;
    b.wait("[data-test=undo]").await?;
    press(&b, "[data-test=undo]").await?;
    b.client.goto(&format!("{}/jobs/3/truck/days", kame.url)).await?;
    b.until_text("[data-test=calendar-says]", "Done Tue 24 Mar").await?;
    b.end().await
}

#[tokio::test]
async fn a_calendar_that_takes_long_is_shown_as_it_is_first_laid_and_can_be_stopped() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    let http = reqwest::Client::new();
    let made = http.post(format!("{}/api/import", kame.url)).json(&building(120, 200)).send().await?;
    let made: Value = made.error_for_status()?.json().await?;
    b.client.goto(&format!("{}/jobs/{}/truck/days", kame.url, made["id"])).await?;
    // What to load comes first, and takes its time.
    let slowly = async |css: &str| {
        for _ in 0..3 {
            if b.wait(css).await.is_ok() {
                break;
            }
        }
        b.wait(css).await.map(drop)
    };
    slowly("[data-test=agree]").await?;
    press(&b, "[data-test=agree]").await?;
    slowly("[data-test=anew]").await?;
    // Laid from nothing once more, on what is another revision now.
    press(&b, "[data-test=anew]").await?;
    b.until_text("[data-test=laying]", "Better ones are being tried").await?;
    b.until("return document.querySelectorAll('[data-bar]').length > 20").await?;
    press(&b, "[data-test=stop-laying]").await?;
    b.wait("[data-test=go-on-laying]").await?;
    // What is not laid whole is not agreed on.
    b.until(
        "return !document.querySelector('[data-test=agree]') && !!document.querySelector('[data-test=calendar-says]')",
    )
    .await?;
    press(&b, "[data-test=go-on-laying]").await?;
    b.wait("[data-test=stop-laying]").await?;
    b.end().await
}

#[tokio::test]
async fn what_was_agreed_on_stays_and_what_moves_says_why() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    b.client.goto(&format!("{}/jobs/3/truck/days", kame.url)).await?;
    b.until_text("[data-test=agreed]", "Not agreed on").await?;
    press(&b, "[data-test=agree]").await?;
    b.until_text("[data-test=agreed]", "As agreed.").await?;
    // One bar is pinned two days later: what hangs on it moves, and says why.
    b.eval("document.querySelector('[data-bar=D1]').dispatchEvent(new Event('click'))").await?;
    b.wait("[data-test=pin-day]").await?;
    b.eval("const e = document.querySelector('[data-test=pin-day]'), d = new Date(e.value + 'T12:00:00Z'); d.setUTCDate(d.getUTCDate() + 2); e.value = d.toISOString().slice(0, 10); e.dispatchEvent(new Event('change'))").await?;
    b.until_text("[data-test=moved]", "Pinned to 20").await?;
    b.is_for_everybody("what moves").await?;
    press(&b, "[data-test=anew]").await?;
    b.until_text("[data-test=agreed]", "Laid from nothing").await?;
    b.until("return !document.querySelector('[data-test=moved]')").await?;
    press(&b, "[data-test=anew]").await?;
    press(&b, "[data-test=agree]").await?;
    b.until_text("[data-test=agreed]", "As agreed.").await?;
    // An inspector comes before the store door is flashed.
    press(&b, "[data-test=site-form-open]").await?;
    press(&b, "[data-test=another-visit]").await?;
    write(&b, "[data-test=visit-0]", "the inspector").await?;
    press(&b, "[data-test=site-keep]").await?;
    b.until_text("[data-test=calendar]", "ask for another day").await?;
    b.end().await
}

#[tokio::test]
async fn the_wall_is_seen_and_rained_on_at_each_hour_of_the_calendar() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    b.client.goto(&format!("{}/jobs/3/truck/days", kame.url)).await?;
    b.until_text("[data-test=calendar-says]", "Done Tue 24 Mar").await?;
    press(&b, "[data-test=hour-open]").await?;
    b.until_text("[data-test=hour-stands]", "actions are done by then").await?;
    let pieces = "return document.querySelectorAll('[data-hour-sheet]').length";
    let first = b.eval(pieces).await?.as_u64().expect("a number");
    let to = |share: &str| {
        format!(
            "const e = document.querySelector('[data-test=hour-range]'); e.value = Math.round(e.max * {share}); e.dispatchEvent(new Event('input')); return 1"
        )
    };
    b.eval(&to("1")).await?;
    b.until(&format!("{} > {first}", pieces)).await?;
    b.eval(&to("0.3")).await?;
    b.eval("document.querySelector('[data-test=hour-rain]').click(); return 1").await?;
    b.until("return document.querySelectorAll('[data-test=hour-wet]').length > 0").await?;
    b.until("return document.querySelector('[data-test=cursor]') !== null").await?;
    b.is_for_everybody("an hour of the calendar").await?;
    // The same by place.
    b.eval("[...document.querySelectorAll('[data-test=calendar-rows] button')].at(-1).click(); return 1").await?;
    b.until("return [...document.querySelectorAll('.names span')].some((e) => e.textContent.trim() === 'D1')").await?;
    b.is_for_everybody("places down").await?;
    b.end().await
}

#[tokio::test]
async fn a_bar_is_pulled_and_what_would_move_is_seen_before_anything_is_kept() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::start(1280, 800).await?;
    b.client.goto(&format!("{}/jobs/3/truck/days", kame.url)).await?;
    b.until_text("[data-test=calendar-says]", "Done Tue 24 Mar").await?;
    b.wait("[data-fuse]").await?;
    // Two days to the right, by the pointer.
    b.eval("window.bar = document.querySelector('[data-bar=D1]'); const r = bar.getBoundingClientRect(); SVGElement.prototype.setPointerCapture = () => undefined; window.go = (type, x) => bar.dispatchEvent(new PointerEvent(type, {bubbles: true, pointerId: 1, button: 0, clientX: r.x + 4 + x, clientY: r.y + 5})); go('pointerdown', 0); go('pointermove', 336); return 1").await?;
    b.until_text("[data-test=what-if]", "D1 on").await?;
    b.until_text("[data-test=what-if]", "Pinned to").await?;
    b.until("return document.querySelectorAll('[data-test=ghost]').length > 0").await?;
    b.eval("go('pointerup', 336); return 1").await?;
    b.is_for_everybody("what would move").await?;
    press(&b, "[data-test=what-if-drop]").await?;
    b.until("return !document.querySelector('[data-test=what-if], [data-test=ghost]')").await?;
    assert!(asked(&kame, "/api/jobs/3").await?["state"]["job"]["site"]["pins"].as_array().is_none_or(Vec::is_empty));
    // One day to the right, by keys, and kept.
    b.eval("const e = document.querySelector('[data-bar=D1]'); e.focus(); e.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowRight', altKey: true, bubbles: true})); return 1").await?;
    b.until_text("[data-test=what-if-says]", "Done").await?;
    press(&b, "[data-test=what-if-keep]").await?;
    b.until("return !document.querySelector('[data-test=what-if]')").await?;
    assert!(
        asked(&kame, "/api/jobs/3").await?["state"]["job"]["site"]["pins"].as_array().is_some_and(|p| !p.is_empty())
    );
    // Other hours are tried beside what stands, and left.
    press(&b, "[data-test=site-form-open]").await?;
    b.eval(
        "const e = document.querySelector('[data-test=people-0]'); e.value = '1'; e.dispatchEvent(new Event('input'))",
    )
    .await?;
    // What they cost stands beside what they work.
    b.eval(
        "const e = document.querySelector('[data-test=rate-0]'); e.value = '40'; e.dispatchEvent(new Event('change'))",
    )
    .await?;
    b.eval("const e = document.querySelector('[data-test=overtime-0]'); e.value = '2'; e.dispatchEvent(new Event('input'))")
        .await?;
    press(&b, "[data-test=another-deadline]").await?;
    write(&b, "[data-test=deadline-0]", "dried in").await?;
    press(&b, "[data-test=site-attempt]").await?;
    b.until_text("[data-test=what-if]", "With these crews and deliveries").await?;
    b.until_text("[data-test=what-if]", "dried in is asked for by").await?;
    b.until_text("[data-test=what-if]", "D1 comes on 2026-03-24: ask for it sooner").await?;
    b.until_text("[data-test=what-if-says]", "Done").await?;
    b.until_text("[data-test=what-if-says]", "Ada and Bo, 1 person: ").await?;
    b.until_text("[data-test=what-if-says]", "at a cost of ").await?;
    b.eval("document.querySelector('[data-test=what-if-both]').click(); return 1").await?;
    b.until("return document.querySelectorAll('[data-test=other-calendar] [data-bar]').length > 0").await?;
    b.is_for_everybody("two calendars").await?;
    press(&b, "[data-test=what-if-drop]").await?;
    b.until("return !document.querySelector('[data-test=other-calendar]')").await?;
    // Another way to build the walls: tried beside what stands, and kept as a change of the job.
    let choose = |test: &str, value: &str| {
        format!(
            "const e = document.querySelector('[data-test={test}]'); e.value = '{value}'; e.dispatchEvent(new Event('change'))"
        )
    };
    b.eval("document.querySelector('[data-test=other-way]').open = true; return 1").await?;
    b.eval(&choose("other-way-of", "top")).await?;
    b.wait("[data-test=other-way-to]").await?;
    b.eval(&choose("other-way-to", "soffit-taped")).await?;
    b.until_text("[data-test=what-if]", "What is at the top of the wall? A soffit, the top edge taped to it").await?;
    b.until_text("[data-test=what-if-says]", "Done").await?;
    b.is_for_everybody("another way to build it").await?;
    press(&b, "[data-test=what-if-keep]").await?;
    b.until("return !document.querySelector('[data-test=what-if]')").await?;
    assert_eq!(asked(&kame, "/api/jobs/3").await?["state"]["job"]["wall"]["schools"]["top"], "soffit-taped");
    b.end().await?;
    // A phone reads the next two days, and the others where it asks.
    let phone = Browser::phone(390, 844).await?;
    phone.client.goto(&format!("{}/jobs/4/truck/days", kame.url)).await?;
    phone.until("return document.querySelectorAll('[data-test=calendar-list] [data-day]').length === 2").await?;
    phone.is_for_everybody("two days on a phone").await?;
    press(&phone, "[data-test=every-day]").await?;
    phone.until("return document.querySelectorAll('[data-test=calendar-list] [data-day]').length > 2").await?;
    phone.end().await
}

#[tokio::test]
async fn two_without_a_signal_at_one_opening_both_keep_what_they_wrote_and_both_see_that_they_differ() -> Result<()> {
    let mut kame = Kame::start(true).await?;
    let ada = begin(&kame, "/jobs/2/site/W1", "Ada").await?;
    let bo = begin(&kame, "/jobs/2/site/W1", "Bo").await?;
    let to_fit = "const at = () => document.querySelector('h2[data-step]').dataset.step; if (at() === 'W1/dry-fit') return true; document.querySelector('[data-test=after]').click(); return false";
    for b in [&ada, &bo] {
        b.until(to_fit).await?;
        b.wait("[data-site-check=unit-labels]").await?;
    }
    kame.silence().await?;
    for (b, says) in [(&ada, "[data-test=good]"), (&bo, "[data-test=bad]")] {
        b.eval("document.querySelector('[data-site-check=unit-labels]').click()").await?;
        press(b, says).await?;
        b.until_text("[data-test=waits]", "1 entry waits").await?;
    }
    kame.speak().await?;
    for b in [&ada, &bo] {
        b.client.execute("dispatchEvent(new Event('online'))", vec![]).await?;
        b.until_text("[data-test=waits]", "Everything is on record").await?;
    }
    for b in [&ada, &bo] {
        b.client.refresh().await?;
        b.until(to_fit).await?;
        b.until_text("[data-test=differ]", "said different things without knowing of each other").await?;
    }
    let record = asked(&kame, "/api/jobs/2/record").await?;
    assert_eq!(record.as_array().map(Vec::len), Some(2));
    ada.end().await?;
    bo.end().await
}

#[tokio::test]
async fn moisture_of_wood_is_seen_over_days() -> Result<()> {
    let kame = Kame::start(true).await?;
    // Somebody read it ten days ago.
    let today = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH)?.as_secs() / 86_400;
    let at = format!("{}T07:05:00Z", kame_core::date::day_text(i64::try_from(today)? - 10));
    let read = serde_json::json!({"events": [{
        "id": "01936f00-0000-7000-8000-00000000d001", "who": "Bo", "at": at, "place": "W1", "step": "",
        "revision": 1, "what": {"is": "test", "test": "moisture", "rows": [["27"]]},
    }]});
    let sent = reqwest::Client::new().post(format!("{}/api/jobs/2/record", kame.url)).json(&read).send().await?;
    assert!(sent.status().is_success(), "{}", sent.text().await?);
    let b = begin(&kame, "/jobs/2/site/W1", "Ada").await?;
    press(&b, "[data-test=test-open]").await?;
    press(&b, "[data-kind=moisture]").await?;
    write(&b, "[data-cell='0 0']", "21.5").await?;
    press(&b, "[data-test=ask-test]").await?;
    b.until_text("[data-test=test-says]", "let it dry before it is covered").await?;
    b.until_text("[data-test=drying]", "2 readings at this place").await?;
    b.until("return document.querySelectorAll('[data-test=moisture-read]').length === 2").await?;
    b.until_text("[data-test=drying]", "less each day: 19 % is likely on").await?;
    b.is_for_the_sun("moisture over days").await?;
    press(&b, "[data-test=keep]").await?;
    b.until_text("[data-test=waits]", "Everything is on record").await?;
    b.end().await
}

#[tokio::test]
async fn what_the_calendar_has_for_today_comes_first() -> Result<()> {
    let kame = Kame::start(true).await?;
    let state = asked(&kame, "/api/jobs/3").await?;
    let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH)?.as_secs() / 86_400;
    // Agreed on with work at W3 on each day of three, so that it is today's wherever the browser's clock stands.
    let from = kame_core::date::day_text(i64::try_from(now)? - 1);
    let steps = ["W3/jambs", "W3/head", "W3/patches"].iter().enumerate();
    let tasks: serde_json::Map<String, Value> =
        steps.map(|(day, step)| ((*step).to_owned(), serde_json::json!([0, day * 1440 + 600]))).collect();
    let mut site = state["state"]["job"]["site"].clone();
    site["kept"] = serde_json::json!({"from": from, "crews": ["Wrap"], "tasks": tasks});
    let edit = serde_json::json!({"edit": "set_site", "site": site});
    let revision = format!("\"{}\"", state["state"]["revision"]);
    let to = format!("{}/api/jobs/3/edits", kame.url);
    let sent = reqwest::Client::new().post(to).header("If-Match", revision).json(&edit).send().await?;
    assert!(sent.status().is_success(), "{}", sent.text().await?);
    let b = begin(&kame, "/jobs/3/site", "Ada").await?;
    b.wait("[data-test=today]").await?;
    let first = b.eval("return document.querySelector('[data-site-place]').dataset.sitePlace").await?;
    assert_eq!(first, "W3");
    assert_eq!(b.eval("return document.querySelectorAll('[data-test=today]').length").await?, 1);
    b.end().await
}

#[tokio::test]
async fn a_test_with_water_is_laid_over_the_drawing_and_kept_with_its_spots() -> Result<()> {
    let mut kame = Kame::start(true).await?;
    let b = begin(&kame, "/jobs/3/site/W1", "Ada").await?;
    b.until_text("[data-test=waits]", "kept on this device").await?;
    press(&b, "[data-test=test-open]").await?;
    press(&b, "[data-kind=drainage]").await?;
    for (cell, value) in [("0 0", "2"), ("0 1", "1.9"), ("0 2", "5")] {
        write(&b, &format!("[data-cell='{cell}']"), value).await?;
    }
    b.wait("[data-test=test-picture]").await?;
    // A touch well above the opening, then one that is put by keys and moved: it came in there.
    let touch = "const e = document.querySelector('[data-test=test-picture]'), r = e.getBoundingClientRect(); \
                 e.dispatchEvent(new MouseEvent('click', {clientX: r.left + r.width / 2, clientY: r.top + 6, bubbles: true}))";
    b.eval(touch).await?;
    press(&b, "[data-did=in]").await?;
    let key = |key: &str| {
        format!(
            "document.querySelector('[data-test=test-picture]').dispatchEvent(new KeyboardEvent('keydown', \
             {{key: '{key}', bubbles: true, cancelable: true}}))"
        )
    };
    for k in ["Enter", "ArrowLeft", "ArrowLeft"] {
        b.eval(&key(k)).await?;
    }
    b.until("return document.querySelectorAll('[data-test=seen-spot]').length === 2").await?;
    press(&b, "[data-test=ask-test]").await?;
    b.until_text("[data-test=spot-says]", "in from where it should").await?;
    b.until_text("[data-test=spot-says]:nth-child(2)", "Water came in").await?;
    b.is_for_the_sun("a test with water").await?;
    // The same is there without a signal.
    kame.silence().await?;
    press(&b, "[data-test=keep]").await?;
    b.until_text("[data-test=waits]", "1 entry waits").await?;
    press(&b, "[data-test=test-open]").await?;
    b.wait("[data-test=test-picture]").await?;
    kame.speak().await?;
    b.client.execute("dispatchEvent(new Event('online'))", vec![]).await?;
    b.until_text("[data-test=waits]", "Everything is on record").await?;
    let record = asked(&kame, "/api/jobs/3/record").await?;
    let last = record.as_array().and_then(|all| all.last()).context("an entry")?;
    let seen = last["event"]["what"]["seen"].as_array().context("spots")?;
    assert_eq!(seen.iter().map(|s| s["did"].as_str()).collect::<Vec<_>>(), [Some("out"), Some("in")]);
    b.end().await
}

/// A film of one picture: a label's code on white.
fn film(of: &str, at: &std::path::Path) -> Result<()> {
    const WIDE: usize = 640;
    const HIGH: usize = 480;
    const MODULE: usize = 9;
    let code = qrcode::QrCode::new(of)?;
    let (n, colors) = (code.width(), code.to_colors());
    let (left, top) = ((WIDE - n * MODULE) / 2, (HIGH - n * MODULE) / 2);
    let light = |i: usize| {
        let (x, y) = (i % WIDE, i / WIDE);
        let within = x >= left && y >= top && x < left + n * MODULE && y < top + n * MODULE;
        let dark = within && colors[(y - top) / MODULE * n + (x - left) / MODULE] == qrcode::Color::Dark;
        if dark { 16 } else { 235 }
    };
    let mut out = format!("YUV4MPEG2 W{WIDE} H{HIGH} F10:1 Ip A1:1 C420mpeg2\nFRAME\n").into_bytes();
    out.extend((0..WIDE * HIGH).map(light));
    out.extend(std::iter::repeat_n(128, WIDE * HIGH / 2));
    Ok(std::fs::write(at, out)?)
}

#[tokio::test]
async fn a_label_is_scanned_in_the_page_and_leads_to_its_place_also_without_a_signal() -> Result<()> {
    let mut kame = Kame::start(true).await?;
    let dir = tempfile::tempdir()?;
    // Printed for another address of the same machine.
    let label = dir.path().join("label.y4m");
    film("https://kame.example/jobs/3/site/W2", &label)?;
    let b = Browser::phone_seeing(390, 844, &label).await?;
    b.client.goto(&format!("{}/jobs/3/site", kame.url)).await?;
    b.fill("[data-test=who]", "Ada").await?;
    b.until_text("[data-test=waits]", "kept on this device").await?;
    // With a signal, and with the network cut and the page opened anew.
    for signal in [true, false] {
        if !signal {
            kame.silence().await?;
            b.client.goto("about:blank").await?;
            b.client.goto(&format!("{}/jobs/3/site", kame.url)).await?;
        }
        press(&b, "[data-test=scan-open]").await?;
        b.until("return location.pathname === '/jobs/3/site/W2' && document.querySelector('h2[data-step]') !== null")
            .await?;
        b.until("return document.querySelector('[data-test=scan-sheet]') === null").await?;
    }
    b.end().await?;
    kame.speak().await?;
    // Something else that carries a code, and no camera at all.
    let carton = dir.path().join("carton.y4m");
    film("4006381333931", &carton)?;
    let b = Browser::phone_seeing(390, 844, &carton).await?;
    b.client.goto(&format!("{}/jobs/3/site", kame.url)).await?;
    b.fill("[data-test=who]", "Ada").await?;
    press(&b, "[data-test=scan-open]").await?;
    b.until_text("[data-test=scan-says]", "no label of a place").await?;
    b.is_for_the_sun("scanning a label").await?;
    b.end().await?;
    let b = begin(&kame, "/jobs/3/site", "Ada").await?;
    b.eval("navigator.mediaDevices.getUserMedia = () => Promise.reject(new Error('none')); return 1").await?;
    press(&b, "[data-test=scan-open]").await?;
    b.until_text("[data-test=scan-says]", "No camera").await?;
    b.end().await
}
