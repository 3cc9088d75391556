//! The demo's main job in a real browser.

use crate::open;
use anyhow::Result;
use fantoccini::Locator;
use fantoccini::actions::{InputSource, MOUSE_BUTTON_LEFT, MouseActions, PointerAction};
use kame_e2e::{Browser, Kame};
use std::time::Duration;

const AS_FOUND: &str = "/jobs/1";
const RIGHT: &str = "/jobs/2";

fn pieces() -> &'static str {
    "return document.querySelectorAll('.shape').length"
}

#[tokio::test]
async fn the_demo_appears_and_opens() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/").await?;
    b.wait("[data-test=job]").await?;
    assert_eq!(b.client.find_all(Locator::Css("[data-test=job]")).await?.len(), 6);
    b.click("[data-test=job] .open").await?;
    b.until_text("h1", "Heron Spit field station").await?;
    b.until("return document.querySelectorAll('.shape').length > 8").await?;
    b.end().await
}

#[tokio::test]
async fn scrubbing_changes_the_picture_and_the_card() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    let all = b.eval(pieces()).await?.as_u64();
    b.press("\u{e011}").await?;
    b.until("return document.querySelectorAll('.shape').length === 0").await?;
    b.until_text("[data-test=count]", "0 of").await?;
    b.eval("document.querySelector('[data-step=\"W1/head\"] .name').click()").await?;
    b.until("return !!document.querySelector('[data-piece=\"W1/head-flashing\"]') && !document.querySelector('[data-piece=\"W1/patch-left\"]')").await?;
    b.until_text("[data-test=card]", "Over both jamb flashings").await?;
    b.until_text("[data-test=card]", "Ladder").await?;
    b.press("\u{e010}").await?;
    b.until(&format!("return document.querySelectorAll('.shape').length === {}", all.unwrap_or(0))).await?;
    b.end().await
}

#[tokio::test]
async fn playing_goes_on_by_itself_to_the_end() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    let from = "const r = document.querySelector('[data-test=scrub]'); r.value = Number(r.max) - 2; r.dispatchEvent(new Event('input', {bubbles: true})); return true";
    b.eval(from).await?;
    b.until("const r = document.querySelector('[data-test=scrub]'); return r.value == r.max - 2").await?;
    b.click("[data-test=play]").await?;
    b.until("const r = document.querySelector('[data-test=scrub]'); return r.value === r.max").await?;
    b.end().await
}

#[tokio::test]
async fn the_right_order_is_dry_and_a_wrong_one_leaks_with_its_words_until_it_is_put_right() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    b.until("const l = [...document.querySelectorAll('[data-test=weather] button')]; l[1].click(); return true")
        .await?;
    b.until("return document.querySelectorAll('.marks polygon').length === 0").await?;

    // The flap dropped before the head flashing.
    b.eval("document.querySelector('[data-step=\"W1/drop-flap\"] .name').click()").await?;
    b.until("return document.querySelector('[data-step=\"W1/drop-flap\"]').classList.contains('chosen')").await?;
    b.eval("document.querySelector('[data-step=\"W1/drop-flap\"] [aria-label^=\"Earlier\"]').click()").await?;
    b.until("const s = [...document.querySelectorAll('.rail [data-step]')].map(e => e.dataset.step); return s.indexOf('W1/drop-flap') < s.indexOf('W1/head')").await?;
    b.press("\u{e010}").await?;
    b.until_text("[data-test=verdict]", "Water gets in").await?;
    b.press("f").await?;
    b.until_text("[data-test=finding]", "F10").await?;
    b.until_text("[data-test=finding]", "head flap of the barrier lies behind the head flashing").await?;
    b.wait("[data-test=way]").await?;
    b.click("[data-test=fix]").await?;
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    b.end().await
}

#[tokio::test]
async fn a_newcomer_sees_the_leak_of_the_wall_as_found_and_mends_it() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, AS_FOUND).await?;
    b.press("r").await?;
    b.until_text("[data-test=finding]", "Rain gets in through the slit in the barrier").await?;
    b.wait("[data-test=way]").await?;
    b.until("return document.querySelectorAll('.marks polygon').length > 0").await?;
    b.click("[data-test=fix]").await?;
    b.until("return !!document.querySelector('[data-piece=\"W1/patch-left\"]')").await?;
    b.press("f").await?;
    b.click("[data-test=fix]").await?;
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    b.end().await
}

#[tokio::test]
async fn a_typed_size_changes_pieces_and_cut_list_and_a_reload_keeps_it() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    b.press("w").await?;
    b.fill("[data-test=quick]", "45 1/2 x 60").await?;
    b.until_text("[data-test=elevation]", "45 1/2\" × 60\"").await?;
    b.click("[data-test=to-cut-list]").await?;
    b.until_text("[data-test=cut-list]", "60\" × 6\"").await?;
    b.until_text("[data-test=cut-list]", "57 1/2\" × 8 1/2\"").await?;
    b.eval("document.getElementById('W1/pan').click()").await?;
    b.until_text("[data-test=cut-list]", "1 of 12 cut").await?;
    b.client.refresh().await?;
    b.until_text("[data-test=cut-list]", "1 of 12 cut").await?;
    b.until_text("[data-test=cut-list]", "57 1/2\"").await?;
    b.click("[data-test=to-wall]").await?;
    b.wait("[data-test=verdict]").await?;
    b.press("\u{e009}z\u{e000}").await?;
    b.press("\u{e009}z\u{e000}").await?;
    b.until_text("[data-test=elevation]", "41\" × 62 1/2\"").await?;
    b.end().await
}

#[tokio::test]
async fn dragging_an_edge_answers_at_once_and_is_kept() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    let middle = b.eval("const r = document.querySelector('[data-handle=right]').getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 3]").await?;
    let (x, y) = (middle[0].as_f64().unwrap_or(0.0) as i64, middle[1].as_f64().unwrap_or(0.0) as i64);
    let to =
        |x: i64, y: i64| PointerAction::MoveTo { duration: Some(Duration::from_millis(40)), x: x as f64, y: y as f64 };
    let drag = MouseActions::new("mouse".into())
        .then(to(x, y))
        .then(PointerAction::Down { button: MOUSE_BUTTON_LEFT })
        .then(to(x + 20, y))
        .then(to(x + 40, y));
    b.client.perform_actions(drag).await?;
    b.until(
        "const t = document.querySelector('[data-test=elevation] .size').textContent; return !t.includes('41\"') || t",
    )
    .await?;
    let up = MouseActions::new("mouse".into()).then(PointerAction::Up { button: MOUSE_BUTTON_LEFT });
    b.client.perform_actions(up).await?;
    b.until("return !document.querySelector('[data-test=undo]').disabled").await?;
    let size = b.eval("return document.querySelector('[data-test=elevation] .size').textContent").await?;
    b.client.refresh().await?;
    b.wait("[data-test=verdict]").await?;
    assert_eq!(b.eval("return document.querySelector('[data-test=elevation] .size').textContent").await?, size);
    b.end().await
}

#[tokio::test]
async fn dragging_a_step_reorders_the_work() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    let places = b
        .eval("const c = s => { const r = document.querySelector(`.rail [data-step=\"W1/${s}\"] [data-test=drag]`).getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2]; }; return [c('head'), c('jambs')]")
        .await?;
    let at = |i: usize, j: usize| places[i][j].as_f64().unwrap_or(0.0);
    let to = |x: f64, y: f64| PointerAction::MoveTo {
        duration: Some(Duration::from_millis(30)),
        x: x.round(),
        y: y.round(),
    };
    let drag = MouseActions::new("mouse".into())
        .then(to(at(0, 0), at(0, 1)))
        .then(PointerAction::Down { button: MOUSE_BUTTON_LEFT })
        .then(to(at(1, 0), at(1, 1)))
        .then(to(at(1, 0), at(1, 1) - 6.0))
        .then(PointerAction::Up { button: MOUSE_BUTTON_LEFT });
    b.client.perform_actions(drag).await?;
    b.until("const s = [...document.querySelectorAll('.rail [data-step]')].map(e => e.dataset.step); return s.indexOf('W1/head') < s.indexOf('W1/jambs') || s.join()").await?;
    b.click("[data-test=restore-order]").await?;
    b.until("const s = [...document.querySelectorAll('.rail [data-step]')].map(e => e.dataset.step); return s.indexOf('W1/head') > s.indexOf('W1/jambs')").await?;
    b.end().await
}

#[tokio::test]
async fn of_two_tabs_the_stale_one_is_told_and_nothing_is_lost() -> Result<()> {
    let kame = Kame::start(true).await?;
    let (mine, theirs) = (open(&kame, RIGHT).await?, open(&kame, RIGHT).await?);
    theirs.press("w").await?;
    theirs.fill("[data-test=width]", "44").await?;
    theirs.until_text("[data-test=elevation]", "44\" ×").await?;
    mine.press("w").await?;
    mine.fill("[data-test=height]", "58").await?;
    mine.until_text("[data-test=stale]", "Changed in another window".trim_start_matches("Changed in another window"))
        .await?;
    mine.until_text("[data-test=stale]", "Height 58").await?;
    mine.until_text("[data-test=elevation]", "44\" × 62 1/2\"").await?;
    mine.click("[data-test=stale-again]").await?;
    mine.until_text("[data-test=elevation]", "44\" × 58\"").await?;
    mine.end().await?;
    theirs.end().await
}

#[tokio::test]
async fn nonsense_in_a_field_is_answered_in_a_sentence_and_kept_out() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    b.press("w").await?;
    b.fill("[data-test=width]", "19'").await?;
    b.until_text("[data-test=error]", "off a wall").await?;
    b.fill("[data-test=width]", "a lot").await?;
    b.until_text("[data-test=error]", "not a length").await?;
    b.until_text("[data-test=elevation]", "41\" × 62 1/2\"").await?;
    b.client.goto(&format!("{}/jobs/77", kame.url)).await?;
    b.until_text("[role=alert]", "There is no such job").await?;
    b.end().await
}

#[tokio::test]
async fn the_main_job_works_by_keys_alone() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/").await?;
    b.wait("[data-test=job]").await?;
    // Tab to the right wall and open it.
    b.until("[...document.querySelectorAll('[data-test=job] .open')].find(e => e.textContent.includes('north wall') && !e.textContent.includes('found')).focus(); return true").await?;
    b.press("\u{e007}").await?;
    b.wait("[data-test=verdict]").await?;
    b.press("?").await?;
    b.until_text("[data-test=help]", "next finding").await?;
    b.press("\u{e00c}").await?;
    b.until("return !document.querySelector('[data-test=help]')").await?;
    // Steps back and on, a step moved the wrong way, the leak, the remedy.
    b.press("[").await?;
    b.press("[").await?;
    b.press("[").await?;
    b.until("return document.querySelector('.chosen')?.dataset.step === 'W1/drop-flap' || document.querySelector('.chosen')?.dataset.step").await?;
    b.press("\u{e00a}\u{e013}\u{e000}").await?;
    b.until("const s = [...document.querySelectorAll('.rail [data-step]')].map(e => e.dataset.step); return s.indexOf('W1/drop-flap') < s.indexOf('W1/head')").await?;
    b.press("\u{e010}").await?;
    b.press("r").await?;
    b.wait("[data-test=way]").await?;
    b.until_text("[data-test=finding]", "F10").await?;
    b.press("g").await?;
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    // Another size, and to the bench.
    b.press("w").await?;
    b.until("return document.activeElement?.id === 'quick'").await?;
    b.press("40 x 60\u{e007}").await?;
    b.until_text("[data-test=elevation]", "40\" × 60\"").await?;
    b.eval("document.activeElement.blur()").await?;
    b.press("c").await?;
    b.until_text("[data-test=cut-list]", "52\" × 8 1/2\"").await?;
    b.press("c").await?;
    b.wait("[data-test=verdict]").await?;
    b.press("s").await?;
    b.wait("[data-test=section] svg").await?;
    b.end().await
}

#[tokio::test]
async fn jobs_are_made_deleted_and_put_back() -> Result<()> {
    let kame = Kame::start(false).await?;
    let b = open(&kame, "/").await?;
    b.until_text(".empty", "No job yet").await?;
    b.click("[data-test=new-job]").await?;
    b.wait("[data-test=job-name]").await?.send_keys("Boat store, east wall").await?;
    b.click("[data-test=name-it]").await?;
    b.until_text("h1", "Boat store, east wall").await?;
    b.wait("[data-test=interview]").await?;
    b.click("[data-test=to-wall]").await?;
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    b.client.goto(&kame.url).await?;
    b.click("[aria-label^=Delete]").await?;
    b.until_text(".empty", "No job yet").await?;
    b.click("[data-test=put-back]").await?;
    b.until_text("[data-test=job]", "Boat store, east wall").await?;
    b.end().await
}

#[tokio::test]
async fn the_firm_sees_how_far_each_job_is_finds_one_by_a_word_and_puts_one_aside() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/").await?;
    b.until_text("[data-test=risks]", "1 wall needs something for the night").await?;
    b.until_text("[data-test=tonight]", "cover it").await?;
    b.until("return document.querySelectorAll('[data-test=progress]').length === 6").await?;
    b.is_for_everybody("the jobs").await?;
    b.wait("[data-test=find]").await?.send_keys("wash west").await?;
    b.until_text("[data-test=found]", "W2 · Wash room window").await?;
    b.until("return document.querySelectorAll('[data-test=job]').length === 0").await?;
    b.client.goto(&kame.url).await?;
    b.until("return document.querySelectorAll('[data-test=job]').length === 6").await?;
    b.click("[data-test=put-aside]").await?;
    b.until_text("[data-test=aside]", "1 job put aside").await?;
    b.until("return document.querySelectorAll('[data-test=job]').length === 5").await?;
    b.click("[data-test=aside] summary").await?;
    b.click("[data-test=take-back]").await?;
    b.until("return document.querySelectorAll('[data-test=job]').length === 6").await?;
    // What comes next leads to its step.
    b.click("[data-test=next]").await?;
    b.until("return location.pathname === '/jobs/3' && location.search.includes('step=')").await?;
    b.end().await
}

#[tokio::test]
async fn a_job_takes_the_firm_s_way_and_says_where_it_leaves_it() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/5/start").await?;
    let to_advice =
        "document.querySelector('[data-test=skip]')?.click(); return !!document.querySelector('[data-test=way-panel]')";
    b.until(to_advice).await?;
    b.until_text("[data-test=way-panel]", "goes its own way").await?;
    b.wait("[data-test=way-name]").await?.send_keys("Gable way").await?;
    b.click("[data-test=keep-way]").await?;
    b.until_text("[data-test=way-said]", "\"Gable way\" is kept").await?;
    b.wait("[data-test=way-name]").await?.send_keys("estuary way").await?;
    b.click("[data-test=keep-way]").await?;
    b.until_text("[data-test=way-wrong]", "is kept already").await?;
    b.until_text("[data-test=keep-way]", "Replace it").await?;
    b.client.goto(&format!("{}/jobs/3/start", kame.url)).await?;
    b.until(to_advice).await?;
    b.until_text("[data-test=differs]", "It differs in 1 thing").await?;
    b.is_for_everybody("the way of a job").await?;
    b.click("[data-test=take-way]").await?;
    b.until_text("[data-test=differs]", "It differs in nothing").await?;
    b.click("[data-test=leave-way]").await?;
    b.until_text("[data-test=way-panel]", "goes its own way").await?;
    b.client.goto(&format!("{}/ways", kame.url)).await?;
    b.until_text("[data-test=way]", "Estuary way").await?;
    b.is_for_everybody("the ways").await?;
    // A new job begins as the firm builds.
    b.client.goto(&kame.url).await?;
    b.click("[data-test=new-job]").await?;
    b.wait("[data-test=job-name]").await?.send_keys("Slipway").await?;
    b.choose("[data-test=job-way] [role=combobox]", "Gable way").await?;
    b.click("[data-test=name-it]").await?;
    b.wait("[data-test=verdict]").await?;
    b.client.goto(&kame.url).await?;
    b.until_text("[data-test=follows]", "Gable way, as it is kept").await?;
    b.end().await
}

#[tokio::test]
async fn a_phone_shows_the_wall_the_water_and_the_card() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::phone(390, 844).await?;
    b.client.goto(&format!("{}{AS_FOUND}", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.until("return document.documentElement.scrollWidth <= window.innerWidth || document.documentElement.scrollWidth")
        .await?;
    b.until("document.querySelectorAll('[data-test=weather] button')[1].click(); return true").await?;
    b.until_text("[data-test=finding]", "F11").await?;
    let small = "return [...document.querySelectorAll('.scrub button, [data-test=weather] button, .narrow button, .rooms a')].filter(e => e.offsetParent && e.getBoundingClientRect().height < 43.5).length === 0";
    b.until(small).await?;
    b.end().await
}

#[tokio::test]
async fn axe_finds_nothing_serious_on_any_screen() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, AS_FOUND).await?;
    let check = async |what: &str| b.is_for_everybody(what).await;
    check("the wall").await?;
    b.press("r").await?;
    b.wait("[data-test=way]").await?;
    b.press("s").await?;
    b.wait("[data-test=section] svg").await?;
    check("rain, findings and section").await?;
    b.press("w").await?;
    b.wait("[data-test=quick]").await?;
    check("sizes").await?;
    b.eval("document.documentElement.classList.add('kame-dark')").await?;
    check("dark").await?;
    b.eval("document.documentElement.classList.remove('kame-dark')").await?;
    b.client.goto(&format!("{}{RIGHT}/cut-list", kame.url)).await?;
    b.wait("[data-test=cut-list] table").await?;
    check("the cut list").await?;
    b.client.goto(&format!("{}/jobs/4/truck", kame.url)).await?;
    b.click("[data-line=\"Flashing tape\"]").await?;
    b.wait("[data-test=line-more]").await?;
    check("the order").await?;
    for (at, what) in
        [("sums", "sums"), ("days", "days"), ("pairs", "pairs"), ("kit", "kit"), ("figures", "profile"), ("mix", "mix")]
    {
        b.client.goto(&format!("{}/jobs/4/truck/{at}", kame.url)).await?;
        b.wait(&format!("[data-test={what}]")).await?;
        check(what).await?;
    }
    b.client.goto(&kame.url).await?;
    b.wait("[data-test=job]").await?;
    check("the jobs").await?;
    b.client.goto(&format!("{}/jobs/4", kame.url)).await?;
    b.wait("[data-test=rows] [data-face-place]").await?;
    check("the building").await?;
    b.eval("document.querySelectorAll('[data-test=building-form] button')[1].click()").await?;
    b.wait("[data-test=scene] [data-face-place]").await?;
    check("the building folded up").await?;
    b.client.goto(&format!("{}/jobs/2/site/W1", kame.url)).await?;
    b.fill("[data-test=who]", "Ada").await?;
    b.wait("[data-site-check=opening-width]").await?;
    check("on the wall").await?;
    b.eval("document.querySelector('[data-site-check=opening-width]').click()").await?;
    b.wait("[data-test=check-sheet]").await?;
    check("a check on the wall").await?;
    b.client.goto(&format!("{}/jobs/2/site", kame.url)).await?;
    b.wait("[data-site-place=W1]").await?;
    check("the places").await?;
    b.client.goto(&format!("{}/jobs/2/record", kame.url)).await?;
    b.wait("[data-test=record]").await?;
    check("the record").await?;
    b.client.goto(&format!("{}/jobs/3", kame.url)).await?;
    b.click("[data-test=tonight]").await?;
    b.wait("[data-test=night]").await?;
    b.eval("[...document.querySelectorAll('[data-test=panels] button')].at(-1).click()").await?;
    b.wait("[data-question=sill]").await?;
    check("nights and how it is made").await?;
    b.client.goto(&format!("{}{RIGHT}/compare", kame.url)).await?;
    b.wait("[data-test=comparison] svg").await?;
    check("side by side").await?;
    b.client.goto(&format!("{}/jobs/3/steps", kame.url)).await?;
    b.wait("[data-test=sheet] [data-test=exploded]").await?;
    check("the step sheet").await?;
    b.client.goto(&format!("{}/jobs/3/start", kame.url)).await?;
    b.wait("[data-test=interview]").await?;
    check("the interview").await?;
    b.click("[data-answer=lap]").await?;
    for _ in 0..12 {
        b.click("[data-test=skip]").await?;
    }
    b.wait("[data-test=advice]").await?;
    check("the advice").await?;
    b.end().await
}
