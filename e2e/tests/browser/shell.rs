//! The frame in which every screen of a job hangs: navigation, finding by typing, addresses, keys, folds, what others change.

use crate::open;
use anyhow::Result;
use kame_e2e::{Browser, Kame};

const STATION: &str = "/jobs/4";
const RIGHT: &str = "/jobs/2";

#[tokio::test]
async fn every_room_has_the_same_frame_and_says_which_it_is() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    for (room, there) in [
        ("start", "[data-test=interview], [data-test=advice]"),
        ("cut-list", "[data-test=cut-list]"),
        ("truck", "[data-test=truck-tabs]"),
        ("days", "[data-test=days]"),
        ("sheet", "[data-test=sheet]"),
        ("kit", "[data-test=kit]"),
        ("files", "[data-test=files-list]"),
        ("wall", "[data-test=verdict]"),
    ] {
        b.click(&format!("[data-test=to-{room}]")).await?;
        b.wait(there).await?;
        b.until(&format!(
            "return document.querySelector('[data-test=to-{room}]').getAttribute('aria-current') === 'page'"
        ))
        .await?;
        b.until_text("h1", "Heron Spit field station").await?;
        b.until_text("[data-test=job-state]", "Dry while the glue holds").await?;
        b.until_text("[data-test=saved]", "Saved").await?;
    }
    b.end().await
}

#[tokio::test]
async fn typing_finds_a_step_and_back_goes_where_one_was() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    b.press("/").await?;
    b.wait("[data-test=palette]").await?.send_keys("head flashing").await?;
    b.until("return document.querySelector('[data-found=\"step-W1/head\"]') !== null").await?;
    b.client.active_element().await?.send_keys("\u{e007}").await?;
    b.until_text("[data-test=card] h2", "Head flashing").await?;
    b.until("return new URLSearchParams(location.search).get('step') === 'W1/head'").await?;
    b.eval("document.querySelector('[data-step=\"W1/pan\"] .name').click()").await?;
    b.until("return new URLSearchParams(location.search).get('step') === 'W1/pan'").await?;
    b.client.back().await?;
    b.until_text("[data-test=card] h2", "Head flashing").await?;
    b.client.refresh().await?;
    b.until_text("[data-test=card] h2", "Head flashing").await?;
    b.press("/").await?;
    b.wait("[data-test=palette]").await?.send_keys("sill slope").await?;
    b.until("const f = document.querySelector('[data-found=\"figure-sill_slope\"]'); if (f) f.click(); return !!f")
        .await?;
    b.until("return document.querySelector('[data-test=find-figure]')?.value === 'sill_slope'").await?;
    b.client.goto(&format!("{}{RIGHT}?finding=1", kame.url)).await?;
    b.until("return document.querySelector('[data-finding=\"1\"]')?.classList.contains('on')").await?;
    b.end().await
}

#[tokio::test]
async fn keys_of_one_letter_can_be_switched_off_and_stay_off() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    b.press("?").await?;
    b.click("#letter-keys").await?;
    b.client.refresh().await?;
    b.wait("[data-test=verdict]").await?;
    b.press("r").await?;
    b.press("\u{e012}").await?;
    b.until_text("[data-test=count]", "36 of 37").await?;
    b.until("return document.querySelector('[data-test=weather] button').getAttribute('aria-pressed') === 'true'")
        .await?;
    b.end().await
}

#[tokio::test]
async fn a_building_opens_whole_folds_by_place_and_its_flags_are_pressed_by_keys() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, STATION).await?;
    b.until("return document.querySelectorAll('[data-test=building] [data-wall]').length === 7").await?;
    b.until("return document.querySelectorAll('[data-test=rows] [data-row-wall]').length === 7 && document.querySelectorAll('[data-face-place]').length > 20").await?;
    let width = "Number(document.querySelector('[data-test=elevation]').getAttribute('viewBox').split(' ')[2])";
    b.press("b").await?;
    b.until(&format!("return {width} > 1000")).await?;
    b.until("return document.querySelectorAll('[data-fold]').length > 20 && document.querySelectorAll('[data-step]').length < 100").await?;
    b.eval("document.querySelector('[data-wall=\"2\"] summary').click()").await?;
    // How much water each place takes stands beside it, as bars.
    b.until(
        "return document.querySelector('[data-test=building] [data-place=D1] svg[aria-label*=\"Glue lost\"]') !== null",
    )
    .await?;
    b.eval("document.querySelector('[data-place=D1]').click()").await?;
    b.until(&format!("return location.search === '?place=D1' && {width} < 400")).await?;
    b.eval("[...document.querySelectorAll('[data-test=fold-by] button')][2].click()").await?;
    b.until("return [...document.querySelectorAll('[data-fold]')].map(f => f.dataset.fold).sort().join() === 'barrier,cladding,lead,window'").await?;
    b.eval("[...document.querySelectorAll('[data-test=fold-by] button')][3].click()").await?;
    b.until("return document.querySelector('[data-fold=\"day-0\"]') !== null").await?;
    b.eval("document.querySelector('[data-flag]').focus()").await?;
    b.client.active_element().await?.send_keys("\u{e007}").await?;
    b.until("return document.querySelector('[data-finding].on') !== null && document.activeElement.dataset.flag !== undefined").await?;
    b.end().await
}

/// Where the sides of what is drawn of a wall are, when it is folded up.
const SIDES: &str = "[...document.querySelectorAll('[data-test=scene] .face')].map(f => Math.round(f.getBoundingClientRect().width)).join()";

#[tokio::test]
async fn a_building_stands_side_by_side_or_folded_up_turns_and_leads_to_its_places() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, STATION).await?;
    b.wait("[data-test=rows]").await?;
    // All of it is in sight at once, and each place says what it is asked.
    b.until("const f = document.querySelector('[data-test=building-drawing] .frame'); return f.scrollHeight <= f.clientHeight").await?;
    b.until("return document.querySelector('[data-face-place=W4]').getAttribute('aria-label').includes('steps done')")
        .await?;
    // Half built nothing is called dry.
    let scrub = |to: &str| {
        format!(
            "const r = document.querySelector('[data-test=scrub]'); r.value = {to}; r.dispatchEvent(new Event('input', {{bubbles: true}}))"
        )
    };
    b.eval(&scrub("420")).await?;
    b.until("return document.querySelector('[data-face-place=W4]').classList.contains('unfinished') && !document.querySelector('[data-face-place].good, [data-test=building] .mark.good, .rail .mark.good')").await?;
    // The next action is known before it is wanted: a press shows it, and the server is not asked about it again.
    let asked =
        "performance.getEntriesByType('resource').filter(e => /done=421&/.test(e.name) && e.responseEnd > 0).length";
    b.until(&format!("return {asked} === 1")).await?;
    b.press("\u{e014}").await?;
    b.until("return document.querySelector('[data-test=count]').textContent.startsWith('421 ')").await?;
    b.until(&format!("return {asked} === 1")).await?;
    b.eval(&scrub("r.max")).await?;
    for (by, kind) in [(1, "finished"), (2, "finished"), (3, "finished"), (4, "set")] {
        b.eval(&format!("document.querySelectorAll('[data-test=building-by] button')[{by}].click()")).await?;
        b.until(&format!("return document.querySelector('[data-face-place=W4]').classList.contains('{kind}')")).await?;
    }
    // Half built, tonight leaves something open; a place says which trade is next.
    b.eval(&scrub("420")).await?;
    b.until("return document.querySelectorAll('[data-test=rows] .left-open').length > 2").await?;
    b.eval("document.querySelectorAll('[data-test=building-by] button')[2].click()").await?;
    b.until("return document.querySelector('[data-face-place=D2]').classList.contains('trade-lead')").await?;
    // Folded up it turns by keys and by dragging.
    b.eval("document.querySelectorAll('[data-test=building-form] button')[1].click()").await?;
    b.wait("[data-test=scene]").await?;
    let before = b.eval(&format!("return {SIDES}")).await?;
    b.eval("document.querySelector('[data-test=scene]').focus()").await?;
    b.client.active_element().await?.send_keys("\u{e014}\u{e014}\u{e013}").await?;
    b.until(&format!("return {SIDES} !== {before}")).await?;
    let turned = "document.querySelector('.turned').style.transform";
    let was = b.eval(&format!("return {turned}")).await?;
    b.eval("const s = document.querySelector('[data-test=scene]'); s.setPointerCapture = () => undefined;
        const go = (type, x) => s.dispatchEvent(new PointerEvent(type, {bubbles: true, pointerId: 1, clientX: x, clientY: 300}));
        go('pointerdown', 400); go('pointermove', 460); go('pointerup', 460)").await?;
    b.until(&format!("return {turned} !== {was}")).await?;
    // A wall and a place lead to where they are.
    b.until("return !document.querySelector('.turned').classList.contains('moving')").await?;
    b.eval("document.querySelector('[data-face-place=W4]').focus()").await?;
    b.client.active_element().await?.send_keys("\u{e007}").await?;
    b.until("return location.search === '?place=W4' && document.querySelector('[data-test=elevation]') !== null")
        .await?;
    // The nearest corner is cut, with both walls.
    b.click("[data-test=section-toggle]").await?;
    b.until("const c = [...document.querySelectorAll('[data-test=section-kinds] button')].find(x => x.textContent.trim() === 'Corner'); c?.click(); return !!c").await?;
    b.until("return document.querySelector('[data-test=section]').textContent.includes('corner studs')").await?;
    b.click("[data-test=whole-building]").await?;
    b.click("[data-go-wall='2']").await?;
    b.until(
        "return Number(document.querySelector('[data-test=elevation]').getAttribute('viewBox').split(' ')[0]) > 400",
    )
    .await?;
    b.end().await
}

#[tokio::test]
async fn what_somebody_else_changed_is_told_and_shown_when_asked() -> Result<()> {
    let kame = Kame::start(true).await?;
    let (a, b): (Browser, Browser) = (open(&kame, RIGHT).await?, open(&kame, RIGHT).await?);
    a.press("w").await?;
    a.fill("[data-test=quick]", "45 x 60").await?;
    a.until_text("[data-test=elevation]", "45\" × 60\"").await?;
    a.until_text("[data-test=saved]", "Saved").await?;
    b.click("[data-test=behind]").await?;
    b.until_text("[data-test=elevation]", "45\" × 60\"").await?;
    b.until_text("[data-test=saved]", "Saved").await?;
    a.end().await?;
    b.end().await
}

#[tokio::test]
async fn the_card_says_what_is_measured_how_it_is_judged_and_by_whom() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2?step=W1%2Fsurvey").await?;
    b.until_text("[data-check=opening-width]", "41\" ± 1/4\"").await?;
    b.until_text("[data-check=opening-width]", "3 readings").await?;
    b.until("return (document.querySelector('[data-test=card] [data-test=step-picture]')?.getAttribute('aria-label') ?? '').startsWith('Measure the opening')").await?;
    b.eval("document.querySelector('[data-step=\"W1/look\"] .name').click()").await?;
    b.until_text("[data-check=look-before-cover]", "somebody other than the installer").await?;
    b.click("[data-test=to-sheet]").await?;
    b.until_text("[data-check=opening-diagonals]", "no more than 1/4\" apart").await?;
    b.until("return document.querySelectorAll('[data-test=sheet] li [data-test=step-picture]').length > 6").await?;
    b.end().await
}
