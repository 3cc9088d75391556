//! Something is found on the wall, at the desk and on a phone: pointed at, tried in the rain, taken, and in the plan.

use crate::open;
use anyhow::Result;
use kame_e2e::{Browser, Kame};

/// Touches the wall at parts of its width and height.
async fn touch(b: &Browser, across: f64, down: f64) -> Result<()> {
    b.wait("[data-test=found-pick]").await?;
    b.eval(&format!(
        "const s = document.querySelector('[data-test=found-pick]'), r = s.getBoundingClientRect();
         s.dispatchEvent(new MouseEvent('click', {{ bubbles: true, clientX: r.left + r.width * {across}, clientY: r.top + r.height * {down} }}))"
    ))
    .await?;
    Ok(())
}

#[tokio::test]
async fn a_tear_is_pointed_at_mended_and_taken_out_again() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/5").await?;
    b.click("[data-test=found-something]").await?;
    b.click("[data-found-kind=tear]").await?;
    touch(&b, 0.3, 0.7).await?;
    b.until_text("[data-test=repair-before]", "Water gets in").await?;
    b.until_text("[data-test=proposal]", "A new piece under the lap above it").await?;
    b.until_text("[data-test=proposal]", "As good as before it happened").await?;
    b.is_for_everybody("found on the wall").await?;
    // Keys move it, and it is asked again.
    let before = b.eval("return document.querySelector('[data-test=found-left]').value").await?;
    b.eval("document.querySelector('[data-test=found-pick]').focus()").await?;
    b.press("\u{e014}").await?;
    b.until(&format!("return document.querySelector('[data-test=found-left]').value !== {before}")).await?;
    // What was proposed for the place before cannot be taken for this one, not even for the moment until it is asked again.
    b.until_text("[data-test=proposal]", "A new piece under the lap above it").await?;
    let right = "new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true })";
    let one_frame = format!(
        "const done = arguments[0]; document.querySelector('[data-test=found-pick]').dispatchEvent({right});
         requestAnimationFrame(() => done(!document.querySelector('[data-test=take-repair]')));"
    );
    assert_eq!(b.client.execute_async(&one_frame, vec![]).await?, true, "an answer to another place could be taken");
    b.until_text("[data-test=proposal]", "A new piece under the lap above it").await?;
    b.click("[data-test=take-repair]").await?;
    b.until_text("[data-test=repair-taken]", "part of the plan now").await?;
    b.until_text("[data-found=D1]", "repair in the plan").await?;
    b.click("[data-test=repair-plan]").await?;
    b.until_text("[data-test=verdict]", "Dry by its laps").await?;
    b.until("return location.search.includes('step=D1')").await?;
    b.client.back().await?;
    b.click("[data-remove-found=D1]").await?;
    b.until("return !document.querySelector('[data-found=D1]')").await?;
    b.end().await
}

#[tokio::test]
async fn what_a_finding_or_a_failed_check_is_about_is_mended_as_it_stands() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/1").await?;
    b.eval("[...document.querySelectorAll('button')].find((x) => x.textContent.startsWith('Findings')).click()")
        .await?;
    b.click("[data-test=mend]").await?;
    b.until_text("[data-test=proposal]", "Do now what was left out").await?;
    b.client.goto(&format!("{}/jobs/3/repair?step=W2%2Fjambs", kame.url)).await?;
    b.until_text("[data-test=repair-before]", "check failed").await?;
    b.wait("[data-test=proposal]").await?;
    // Nothing hangs in a window.
    b.client.goto(&format!("{}/jobs/1/repair", kame.url)).await?;
    b.click("[data-found-kind=tear]").await?;
    touch(&b, 0.5, 0.45).await?;
    b.until_text("[data-test=repair-wrong]", "choose a place beside it").await?;
    b.end().await
}

#[tokio::test]
async fn what_comes_through_a_late_hole_is_said_and_flashed_as_that() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/5/repair").await?;
    b.click("[data-found-kind=late-hole]").await?;
    touch(&b, 0.3, 0.7).await?;
    b.until_text("[data-test=proposal]", "Flash it as a pipe").await?;
    b.eval("const e = document.querySelector('[data-test=found-thing]'); e.value = 'duct'; e.dispatchEvent(new Event('change'))").await?;
    b.until_text("[data-test=proposal]", "Flash it as a duct").await?;
    b.is_for_everybody("a late hole").await?;
    b.end().await
}

#[tokio::test]
async fn a_window_is_moved_after_it_was_flashed_and_another_is_replaced() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2/repair").await?;
    b.click("[data-found-kind=moved]").await?;
    touch(&b, 0.5, 0.45).await?;
    // Nothing is proposed as long as it is where it was.
    let left = b.eval("return document.querySelector('[data-test=found-left]').value").await?;
    b.until("return document.querySelector('[data-test=proposal]') === null").await?;
    b.eval("document.querySelector('[data-test=found-pick]').focus()").await?;
    for _ in 0..6 {
        b.press("\u{e014}").await?;
    }
    b.until(&format!("return document.querySelector('[data-test=found-left]').value !== {left}")).await?;
    b.until_text("[data-test=proposal]", "hang it anew").await?;
    b.is_for_everybody("an opening that moved").await?;
    b.click("[data-test=take-repair]").await?;
    b.until_text("[data-test=repair-taken]", "part of the plan now").await?;
    b.until_text("[data-found=D1]", "Opening moved or grown, repair in the plan").await?;
    // The unit of the same window is broken later.
    b.click("[data-found-kind=unit]").await?;
    touch(&b, 0.55, 0.45).await?;
    b.until_text("[data-test=proposal]", "set another").await?;
    b.click("[data-test=take-repair]").await?;
    b.until_text("[data-found=D2]", "Unit to be replaced, repair in the plan").await?;
    b.click("[data-test=repair-plan]").await?;
    b.until("return location.search.includes('step=D2')").await?;
    b.end().await
}

#[tokio::test]
async fn on_a_phone_it_takes_two_taps() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::phone(390, 844).await?;
    b.client.goto(&format!("{}/jobs/5/repair", kame.url)).await?;
    b.click("[data-found-kind=hole]").await?;
    touch(&b, 0.4, 0.6).await?;
    b.wait("[data-test=proposal]").await?;
    b.is_for_everybody("found on the wall, phone").await?;
    b.end().await
}
