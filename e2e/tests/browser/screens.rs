//! The screens beyond the main job: section, figures, a second window, files, names.

use crate::open;
use anyhow::Result;
use fantoccini::Locator;
use kame_e2e::{Browser, Kame};

/// Presses the nth button of a group of choices.
async fn choose(b: &Browser, group: &str, n: usize) -> Result<()> {
    b.until(&format!("const l = document.querySelectorAll('{group} button'); if (!l[{n}]) return 'no button'; l[{n}].click(); return true")).await
}

#[tokio::test]
async fn the_section_shows_the_same_stack_and_its_line_moves() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.click("[data-test=section-toggle]").await?;
    b.wait("[data-test=built] svg .run").await?;
    b.until("return !!document.querySelector('.cut-line')").await?;
    let titles =
        "return [...document.querySelectorAll('[data-test=section] svg title')].map(t => t.textContent).join('|')";
    let sill = b.eval(titles).await?;
    assert!(sill.as_str().is_some_and(|t| t.contains("sill pan") && t.contains("window")), "{sill}");
    let before = b.text("[data-test=section] .at").await?;
    b.eval("const r = document.querySelector('[data-test=section] input[type=range]'); r.value = 0.2; r.dispatchEvent(new Event('input', {bubbles: true}))").await?;
    b.until(&format!(
        "return !document.querySelector('[data-test=section] .at').textContent.includes({})",
        serde_json::json!(before.lines().last().unwrap_or("?"))
    ))
    .await?;
    choose(&b, "[data-test=section]", 1).await?;
    b.until("return [...document.querySelectorAll('[data-test=section] svg title')].some(t => t.textContent === 'head flashing')").await?;
    choose(&b, "[data-test=section]", 2).await?;
    b.until("return [...document.querySelectorAll('[data-test=section] svg title')].some(t => t.textContent === 'left jamb lining')").await?;
    // Every mark has its name beside the drawing, and a piece leads to its step.
    let named = "const text = document.querySelector('[data-test=built] ul').textContent; return [...document.querySelectorAll('[data-test=built] .mark title')].every(t => text.includes(t.textContent))";
    assert_eq!(b.eval(named).await?.as_bool(), Some(true));
    b.eval("document.querySelector('[data-test=built] .run[data-piece=\"W1/lining-left\"]').dispatchEvent(new MouseEvent('click', {bubbles: true}))").await?;
    b.until_text("[data-test=card]", "Jamb lining").await?;
    b.until("return !!document.querySelector('[data-test=built] .run.on')").await?;
    // As the water sees it: with the glue lost, gaps that adhesive closed are open.
    b.eval("document.querySelector('[data-test=as-water]').click()").await?;
    b.wait("[data-test=section] svg .band").await?;
    let glued = "return document.querySelectorAll('[data-test=section] line.glued').length";
    assert!(b.eval(glued).await?.as_u64() > Some(0));
    choose(&b, "[data-test=weather]", 2).await?;
    b.until(&format!("{glued} === 0")).await?;
    b.end().await
}

#[tokio::test]
async fn a_figure_of_the_job_changes_the_pieces_and_goes_back() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.press("w").await?;
    b.fill("[data-test=figure-jamb_tape_width]", "9").await?;
    b.until(
        "return [...document.querySelectorAll('.why button')].some(x => x.textContent.includes('Back to the profile'))",
    )
    .await?;
    b.eval("document.querySelector('.rail [data-step=\"W1/jambs\"] .name').click()").await?;
    choose(&b, "[data-test=panels]", 0).await?;
    b.until_text("[data-test=card]", "67 1/4\" × 9\"").await?;
    choose(&b, "[data-test=panels]", 2).await?;
    b.until("const x = [...document.querySelectorAll('.why button')].find(x => x.textContent.includes('Back to the profile: 6')); if (x) x.click(); return !x && document.querySelector('[data-test=figure-jamb_tape_width]').value === '6'").await?;
    b.fill("[data-test=figure-jamb_tape_width]", "40").await?;
    b.until_text("[data-test=error]", "between 3 and 12").await?;
    b.end().await
}

#[tokio::test]
async fn a_second_window_is_put_in_chosen_moved_and_taken_away() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.press("w").await?;
    b.fill("[data-test=wall-width]", "24'").await?;
    b.until("return !document.querySelector('[data-test=undo]').disabled").await?;
    b.click("[data-test=add]").await?;
    b.until("const x = [...document.querySelectorAll('.p-menu-item-link')].find(x => x.textContent.trim() === 'Window'); if (!x) return false; x.click(); return true").await?;
    b.until("return document.querySelectorAll('[data-opening]').length === 2").await?;
    b.until("return [...document.querySelectorAll('.rail [data-step]')].some(e => e.dataset.step === 'W2/pan')")
        .await?;
    b.press("\u{e010}").await?;
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    b.until("const x = [...document.querySelectorAll('.sizes button')].find(x => x.textContent.includes('Take it off the wall')); if (!x) return 'no button'; x.click(); return true").await?;
    b.until("return document.querySelectorAll('[data-opening]').length === 1").await?;
    b.until("const x = [...document.querySelectorAll('.sizes button')].find(x => x.textContent.includes('Take it off the wall')); if (x) x.click(); return document.querySelectorAll('[data-opening]').length === 0").await?;
    b.until_text(".drawing .empty", "No window on this wall").await?;
    b.click("[data-test=undo]").await?;
    b.until("return document.querySelectorAll('[data-opening]').length === 1").await?;
    b.end().await
}

#[tokio::test]
async fn a_step_left_out_is_struck_through_found_and_put_back() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.eval("document.querySelector('.rail [data-step=\"W1/bed\"] .name').click()").await?;
    b.until("return document.querySelector('.rail [data-step=\"W1/bed\"]').classList.contains('chosen')").await?;
    b.click(".rail [data-step='W1/bed'] [data-test=toggle-step]").await?;
    b.until("return document.querySelector('.rail [data-step=\"W1/bed\"]').classList.contains('removed')").await?;
    b.press("\u{e010}").await?;
    b.press("f").await?;
    b.until_text(".findings", "Bead on three sides").await?;
    b.until("const f = [...document.querySelectorAll('[data-test=finding]')].find(f => f.textContent.includes('Bead on three sides')); const fix = f && f.querySelector('[data-test=fix]'); if (fix) fix.click(); return !!fix").await?;
    b.until("return !document.querySelector('.rail [data-step=\"W1/bed\"]').classList.contains('removed')").await?;
    b.end().await
}

#[tokio::test]
async fn a_single_action_can_be_left_out_and_the_water_tells() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.eval("document.querySelector('.rail [data-step=\"W1/head\"] .name').click()").await?;
    b.until_text("[data-test=card]", "roll the head flashing").await?;
    b.until("const x = document.querySelector('[aria-label=\"Leave out: roll the head flashing\"]'); if (!x) return 'no button'; x.click(); return true").await?;
    b.press("\u{e010}").await?;
    b.until_text("[data-test=verdict]", "Water gets in").await?;
    b.press("f").await?;
    b.until_text("[data-test=finding]", "Roll the head flashing").await?;
    b.end().await
}

#[tokio::test]
async fn focusing_a_finding_shows_its_place_on_the_wall() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/1").await?;
    choose(&b, "[data-test=weather]", 2).await?;
    b.until("return document.querySelectorAll('[data-test=finding]').length >= 2").await?;
    b.eval("document.querySelectorAll('[data-test=finding] .told')[1].focus()").await?;
    b.until("return document.querySelector('.flag.on text')?.textContent === '2'").await?;
    b.until("return document.querySelectorAll('.shape.told').length > 0").await?;
    b.end().await
}

#[tokio::test]
async fn a_job_file_goes_in_and_a_wrong_one_is_told_in_a_sentence() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/").await?;
    let folder = tempfile::TempDir::new()?;
    let file = |name: &str, text: &[u8]| -> Result<String> {
        let path = folder.path().join(name);
        std::fs::write(&path, text)?;
        Ok(path.display().to_string())
    };
    let good = reqwest::get(format!("{}/api/jobs/2/file", kame.url)).await?.text().await?;
    let input = || b.client.find(Locator::Css("[data-test=import-file]"));
    input().await?.send_keys(&file("bad.kame.json", b"{\"format\": \"kame-job\"}")?).await?;
    b.until_text("[data-test=error]", "this is not a whole Kame job file").await?;
    input()
        .await?
        .send_keys(&file("newer.kame.json", good.replace("\"version\": 3", "\"version\": 9").as_bytes())?)
        .await?;
    b.until_text("[data-test=error]", "found 9, expected 1 to 3").await?;
    assert_eq!(b.client.find_all(Locator::Css("[data-test=job]")).await?.len(), 6, "nothing half-read");
    let renamed = good.replace("north wall", "east wall").replace("\"41 in\"", "\"39 in\"");
    input().await?.send_keys(&file("good.kame.json", renamed.as_bytes())?).await?;
    b.until_text("h1", "east wall").await?;
    b.until_text("[data-test=elevation]", "39\" × 62 1/2\"").await?;
    b.end().await
}

#[tokio::test]
async fn a_job_is_copied_and_renamed_with_the_longest_name() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/").await?;
    // Lines of the list grow while what they say comes in: a press by its place could miss.
    b.wait("[aria-label^=Copy]").await?;
    b.eval("document.querySelector('[aria-label^=Copy]').click()").await?;
    b.until("return document.querySelectorAll('[data-test=job]').length === 7").await?;
    b.until_text("[data-test=job]", "(copy)").await?;
    b.click("[aria-label^=Rename]").await?;
    let long = "Heron Spit ".repeat(10) + "boat store";
    let field = b.wait("[data-test=job-name]").await?;
    field.clear().await?;
    field.send_keys(&long).await?;
    b.click("[data-test=name-it]").await?;
    b.until_text("[data-test=job]", &long).await?;
    b.until("return document.documentElement.scrollWidth <= window.innerWidth").await?;
    b.click("[data-test=job] .open").await?;
    b.until_text("h1", "Heron Spit").await?;
    b.until("return document.documentElement.scrollWidth <= window.innerWidth").await?;
    b.end().await
}

#[tokio::test]
async fn the_drawing_zooms_fits_and_nudges_by_keys() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    let width = "return Number(document.querySelector('[data-test=elevation]').getAttribute('viewBox').split(' ')[2])";
    let near = b.eval(width).await?.as_f64().unwrap_or(0.0);
    b.press("0").await?;
    b.until(&format!("{width} > {near} * 1.5")).await?;
    b.press("+").await?;
    b.press("+").await?;
    b.until(&format!("{width} < {near} * 1.9")).await?;
    b.eval("document.querySelector('[data-test=elevation]').focus()").await?;
    b.press("\u{e014}").await?;
    b.press("w").await?;
    b.until("return document.querySelector('[data-test=left]').value === '70 1/4'").await?;
    b.click("[data-test=undo]").await?;
    b.until("return document.querySelector('[data-test=left]').value === '70'").await?;
    b.end().await
}

#[tokio::test]
async fn a_server_that_is_gone_is_told_and_nothing_breaks() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    drop(kame);
    b.until("return fetch('/api/jobs').then ? true : false").await?;
    b.press("\u{e012}").await?;
    b.until("document.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowLeft'})); return (document.querySelector('[data-test=error]')?.textContent ?? '').includes('does not answer')").await?;
    b.until("return document.querySelectorAll('.shape').length > 8").await?;
    b.end().await
}

#[tokio::test]
async fn the_interface_speaks_spanish_where_that_was_chosen_and_no_screen_is_wider_for_it() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/").await?;
    b.eval("const s = document.querySelector('[data-test=language]'); s.value = 'es'; s.dispatchEvent(new Event('change'))")
        .await?;
    b.until("return document.documentElement.lang === 'es' && /^Trabajos/.test(document.querySelector('main h2').textContent)")
        .await?;
    b.until_text("main", "lugares que proteger").await?;
    b.is_for_everybody("jobs in Spanish").await?;
    for room in ["", "/cut-list", "/truck/order", "/truck/days", "/site", "/record", "/files"] {
        b.client.goto(&format!("{}/jobs/2{room}", kame.url)).await?;
        b.until_text("nav.rooms", "Camión").await?;
        b.until("return document.documentElement.scrollWidth <= window.innerWidth").await?;
    }
    b.client.goto(&format!("{}/jobs/2", kame.url)).await?;
    b.until_text("[data-test=job-state]", "Seco").await?;
    // Cards too: the first step's title is that of its Spanish line.
    b.until_text("main", "Cortar y doblar hacia adentro").await?;
    b.is_for_everybody("a wall in Spanish").await?;
    b.end().await?;
    // A phone has its own choice, made where somebody says who he is.
    let b = Browser::phone(390, 844).await?;
    b.client.goto(&format!("{}/jobs/2/site", kame.url)).await?;
    b.until_text("[data-test=who-go]", "Start").await?;
    b.eval("const s = document.querySelector('[data-test=language]'); s.value = 'es'; s.dispatchEvent(new Event('change'))")
        .await?;
    b.until_text("[data-test=who-go]", "Empezar").await?;
    b.fill("[data-test=who]", "Inés").await?;
    b.until_text("[data-test=site]", "Lugares").await?;
    b.until("return document.documentElement.scrollWidth <= 390").await?;
    b.is_for_everybody("places in Spanish").await?;
    b.end().await
}
