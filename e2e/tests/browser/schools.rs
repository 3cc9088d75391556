//! Schools in the browser: chosen, held side by side, left for the night, put right, printed; and the strategy before them.

use crate::open;
use anyhow::{Context, Result};
use kame_e2e::{Browser, Kame};

const RIGHT: &str = "/jobs/2";
const FOUR: &str = "/jobs/3";

/// Shows how wall and opening are made.
async fn how(b: &Browser) -> Result<()> {
    b.wait("[data-test=verdict]").await?;
    b.eval("[...document.querySelectorAll('[data-test=panels] button')].at(-1).click()").await?;
    b.wait("[data-question=sill]").await.map(|_| ())
}

#[tokio::test]
async fn every_family_and_sill_can_be_chosen_and_runs_dry() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    how(&b).await?;
    for (question, answer) in [
        ("barrier", "Two-layer plaster paper"),
        ("barrier", "Adhered sheet"),
        ("barrier", "Fluid-applied"),
        ("sill", "impermeable strip"),
        ("barrier", "Faced panel"),
        ("barrier", "Insulation face as the plane"),
        ("head", "groove"),
        ("barrier", "Loose sheet"),
        ("sill", "bow-tie"),
        ("sill", "end dams of their own"),
        ("sill", "Formed pan"),
        ("unit", "fastened through its frame"),
        ("position", "At the inside"),
        ("head", "Drip cap"),
        ("unit", "Door"),
        ("hung", "It is part of this plan"),
    ] {
        b.answer(&format!("[data-question={question}] .answer"), answer).await?;
        b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    }
    b.end().await
}

/// Chooses an answer by its id, as a person does: pictures are opened, one is touched; until the control says its name.
async fn answer(b: &Browser, question: &str, choice: &str) -> Result<()> {
    b.eval("document.querySelectorAll('details.seldom').forEach((d) => (d.open = true))").await?;
    b.answer(&format!("[data-question={question}] .answer"), choice).await.map(drop)
}

#[tokio::test]
async fn the_right_ways_are_chosen_one_after_another_and_each_runs_dry() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    how(&b).await?;
    for (question, choice) in [
        ("barrier", "loose"),
        ("sill", "corners-under"),
        ("sill", "formed-corners"),
        ("sill", "corners-strip"),
        ("sill", "turned"),
        ("tuck", "sliced"),
        ("tuck", "over"),
        ("lining", "sheet"),
        ("lining", "tape"),
        ("cut", "martini"),
        ("apron", "wide"),
        ("apron", "none"),
        ("jambs", "before"),
        ("jambs", "after"),
        ("bottom", "skipped"),
        ("bottom", "spaced"),
        ("bottom", "open"),
        ("dam", "rod"),
        ("dam", "strip"),
        ("maker", "gaskets"),
        ("maker", "plain"),
        ("sheathing", "taped"),
        ("laps", "taped"),
        ("second", "dark"),
        ("second", "none"),
        ("outside", "boards"),
        ("gap", "battens"),
        ("boarding", "furring"),
        ("boarding", "boards"),
        ("outside", "none"),
        ("top", "soffit-taped"),
        ("barrier", "adhered"),
        ("lapping", "down"),
        ("lapping", "up"),
        ("barrier", "panel"),
        ("tees", "level"),
        ("tees", "half"),
        ("second", "paper"),
        ("rows", "top"),
        ("second", "none"),
        ("barrier", "fluid"),
        ("sill", "fluid-alone"),
        ("sill", "fluid-strip"),
        ("barrier", "gypsum"),
        ("sill", "liquid"),
        ("barrier", "plaster"),
        ("sill", "metal"),
        ("cladding", "plaster"),
        ("gap", "mat"),
        ("base", "mat-screed"),
        ("beads", "pocket"),
        ("hung", "here"),
        ("unit", "frame"),
        ("position", "between"),
        ("head", "cap"),
        ("inside", "foam"),
    ] {
        answer(&b, question, choice).await?;
        b.until_text("[data-test=verdict]", "Dry").await.with_context(|| format!("{question}: {choice}"))?;
    }
    b.end().await
}

#[tokio::test]
async fn what_cannot_be_built_stands_there_with_its_reason() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    how(&b).await?;
    b.click("[data-question=bottom] .answer").await?;
    b.until_text("[data-choice=sealed]", "Cannot be built here").await?;
    b.until("return document.querySelector('[data-choice=sealed]').disabled").await?;
    // What can be built stands there as pictures of the wall made so.
    b.until("return document.querySelectorAll('[data-choice] svg[role=img]').length >= 2 && !document.querySelector('[data-choice=sealed] svg')").await?;
    b.is_for_everybody("answers as pictures").await?;
    b.end().await
}

#[tokio::test]
async fn tonight_marks_the_rail_and_names_the_cover() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, FOUR).await?;
    b.click("[data-test=tonight]").await?;
    b.until("return document.querySelectorAll('[data-test=night]').length > 40").await?;
    b.eval("document.querySelector('[data-step=\"D1/pan\"] .name').click()").await?;
    b.until_text("[data-test=night-card]", "Cover Store door").await?;
    b.until("return document.querySelectorAll('.tonight rect').length === 1").await?;
    b.eval("document.querySelector('[data-step=\"D1/look\"] .name').click()").await?;
    b.until_text("[data-test=night-card]", "May be left as it is").await?;
    b.press("n").await?;
    b.until("return document.querySelectorAll('[data-test=night]').length === 0").await?;
    b.end().await
}

#[tokio::test]
async fn a_wrong_order_is_put_right_with_what_it_moves_said_before() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    b.wait("[data-test=verdict]").await?;
    b.eval("document.querySelector('[data-step=\"W1/head\"] .name').click()").await?;
    b.until("return document.querySelector('.chosen')?.dataset.step === 'W1/head'").await?;
    b.eval("document.querySelector('[data-step=\"W1/head\"] .name').focus()").await?;
    b.press("\u{e00a}\u{e013}\u{e000}").await?;
    b.until_text("[data-test=order-wrong]", "Putting it right moves").await?;
    b.click("[data-test=put-right]").await?;
    b.until("const s = [...document.querySelectorAll('.rail [data-step]')].map(e => e.dataset.step); return !document.querySelector('[data-test=order-wrong]') && s.indexOf('W1/jambs') < s.indexOf('W1/head')").await?;
    b.end().await
}

#[tokio::test]
async fn two_schools_stand_side_by_side_and_one_is_taken() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, &format!("{RIGHT}/compare")).await?;
    b.wait("[data-test=comparison]").await?;
    b.choose("#c-sill", "Soldered metal pan").await?;
    b.until_text("[data-test=comparison]", "Lasts as long as the wall").await?;
    // The sill is what differs: both are drawn, and what else there is to look at is a press away.
    let drawn = |what: &str| {
        format!(
            "return document.querySelectorAll('[data-test=comparison] .sides svg[role=img][aria-label*=\"{what}\"]').length === 2"
        )
    };
    b.until(&drawn("Sill")).await?;
    b.eval("[...document.querySelectorAll('[data-test=compare-look] button')].at(-1).click()").await?;
    b.until(&drawn("drawn apart")).await?;
    b.until("return document.querySelectorAll('[data-test=comparison] td svg[aria-label*=\"Glue lost\"]').length >= 4")
        .await?;
    b.choose("#c-bottom", "Sealed").await?;
    b.until_text("[data-test=error]", "F05").await?;
    b.choose("#c-bottom", "Open").await?;
    b.until("return !document.querySelector('[data-test=error]')").await?;
    b.click("[data-test=take]").await?;
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    b.eval("document.querySelector('[data-step=\"W1/pan\"] .name').click()").await?;
    b.until_text("[data-test=card]", "Soldered metal pan").await?;
    b.end().await
}

#[tokio::test]
async fn a_few_questions_give_advice_that_is_followed_or_not() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, &format!("{RIGHT}/start")).await?;
    for answer in [
        "plaster", "normal", "mixed", "warm", "weeks", "windows", "there", "middle", "code", "used", "plain", "none",
        "3 1/2",
    ] {
        b.click(&format!("[data-answer=\"{answer}\"]")).await?;
    }
    b.until_text("[data-advice=A1] .best", "Two-layer plaster paper").await?;
    b.until_text("[data-advice=A6] .best", "Windows first").await?;
    // Pictures that come in move what stands below them: a press by its place could miss.
    b.eval("document.querySelector('[data-advice=A6] [data-option=barrier]').click()").await?;
    b.until_text("[data-advice=A6] .best", "Barrier first").await?;
    let why = b.wait("[data-advice=A6] input").await?;
    why.send_keys("the window crew comes late\u{e007}").await?;
    b.eval("document.querySelector('[data-test=follow]').click()").await?;
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    how(&b).await?;
    b.until_text("[data-question=barrier]", "Two-layer plaster paper").await?;
    b.client.goto(&format!("{}{RIGHT}/start", kame.url)).await?;
    b.until("return document.querySelector('[data-advice=A6] input')?.value === 'the window crew comes late'").await?;
    b.end().await
}

#[tokio::test]
async fn a_mistake_on_purpose_is_found_and_put_right() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    b.wait("[data-test=verdict]").await?;
    b.press("f").await?;
    b.choose("#mistake", "Bottom sealed").await?;
    b.until_text("#mistake", "Bottom sealed").await?;
    b.eval("document.querySelector('.try form, form.try').requestSubmit()").await?;
    b.until_text("[data-test=finding]", "F05").await?;
    b.until_text("[data-test=verdict]", "Water stands").await?;
    b.click("[data-test=fix]").await?;
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    b.end().await
}

#[tokio::test]
async fn the_stack_is_drawn_apart_and_the_sheet_has_every_step() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, FOUR).await?;
    b.wait("[data-test=verdict]").await?;
    for _ in 0..6 {
        b.press("s").await?;
    }
    b.until("return document.querySelectorAll('[data-test=exploded] [data-lift]').length > 10").await?;
    b.until("return document.querySelectorAll('[data-test=exploded] .fold').length > 4").await?;
    how(&b).await?;
    b.choose("[data-test=which-opening] [role=combobox]", "Store door").await?;
    b.until_text("[data-test=exploded]", "soldered metal pan").await?;
    b.click("[data-test=to-sheet]").await?;
    b.until_text("[data-test=sheet] h2", "D1 · Store door").await?;
    b.until("return document.querySelectorAll('[data-test=sheet] ol > li').length === 15 || document.querySelectorAll('[data-test=sheet] ol > li').length").await?;
    b.until_text("[data-test=sheet]", "Nail the face leg only").await?;
    b.end().await
}

#[tokio::test]
async fn a_phone_shows_how_it_is_made_and_tonight() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::phone(390, 844).await?;
    b.client.goto(&format!("{}{FOUR}", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.click("[data-test=tonight]").await?;
    b.until_text("[data-test=night-card]", "Tonight").await?;
    b.until("return document.documentElement.scrollWidth <= 390").await?;
    b.client.goto(&format!("{}{FOUR}/steps", kame.url)).await?;
    b.wait("[data-test=sheet]").await?;
    b.until("return document.documentElement.scrollWidth <= 390 || document.documentElement.scrollWidth").await?;
    b.end().await
}

/// Adds something by the menu of sizes, as a person does, and waits until it is the one whose sizes are shown.
async fn add(b: &Browser, what: &str) -> Result<()> {
    let title = "document.querySelector('.sizes h3').textContent";
    let before = b.eval(&format!("return {title}")).await?;
    b.click("[data-test=add]").await?;
    b.until(&format!(
        "const i = [...document.querySelectorAll('[role=menuitem]')].find((e) => e.textContent.trim() === '{what}');
         (i?.querySelector('.p-menu-item-content') ?? i)?.click(); return !!i"
    ))
    .await
    .with_context(|| format!("adding a {what}"))?;
    b.until(&format!("return {title} !== {before}")).await
}

#[tokio::test]
async fn what_stands_close_together_is_placed_by_its_sizes_and_runs_dry() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, RIGHT).await?;
    b.wait("[data-test=verdict]").await?;
    b.eval("[...document.querySelectorAll('[data-test=panels] button')].at(-2).click()").await?;
    b.wait("[data-test=add]").await?;
    // Beside a window from 70 to 111 whose sill is at 30: one over a pier of 3, then 2 off the corner; a pipe 3 under the sill; a box 2 off the
    // jamb; a hole of 6 by 6.
    for (what, sizes) in [
        ("Window", &[("width", "30"), ("height", "62 1/2"), ("sill", "30"), ("left", "114")][..]),
        ("", &[("left", "2")]),
        ("Pipe", &[("width", "3"), ("height", "3"), ("left", "88"), ("sill", "24")]),
        ("Surface box", &[("width", "4"), ("height", "4"), ("sill", "50"), ("left", "113")]),
        ("Window", &[("width", "6"), ("height", "6"), ("sill", "60"), ("left", "150")]),
    ] {
        if !what.is_empty() {
            add(&b, what).await?;
        }
        for (field, text) in sizes {
            b.fill(&format!("[data-test={field}]"), &format!("{text}\u{e007}")).await?;
            b.until(&format!("return document.querySelector('[data-test={field}]').value === '{text}'")).await?;
        }
        b.until("return document.querySelector('[data-test=error]') === null").await?;
        b.until_text("[data-test=verdict]", "Dry").await.with_context(|| format!("{what} {sizes:?}"))?;
    }
    b.end().await
}
