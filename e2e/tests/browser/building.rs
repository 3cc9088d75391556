//! The whole building in the browser: what is put on walls, corners, schedules, and the faults between trades.

use crate::open;
use anyhow::Result;
use kame_e2e::{Browser, Kame};

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
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    how(&b).await?;
    b.answer("#q-P1-face", "A patch on the surface only").await?;
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
    let example = "return fetch(document.querySelector('[data-test=schedule-example]').href).then((r) => r.text())";
    let example = b.eval(example).await?;
    assert!(example.as_str().is_some_and(|e| e.starts_with("Mark,Name,Kind,Width,")), "{example}");
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
        b.answer(&format!("#q--{question}"), choice).await?;
        if !code.is_empty() {
            findings(&b).await?;
            b.until(&told(code)).await?;
        }
    }
    b.end().await
}

#[tokio::test]
async fn a_gable_a_floor_and_a_course_of_ones_own_are_drawn_and_their_cost_told() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.press("w").await?;
    b.fill("[data-test=wall-height]", "13'").await?;
    b.until("return !document.querySelector('[data-test=undo]').disabled").await?;
    b.fill("[data-test=top] input", "108").await?;
    b.wait("[data-test=outline]").await?;
    b.choose("#level-kind", "Floor").await?;
    b.fill("[data-test=add-level] input[aria-label='Name']", "Loft").await?;
    b.fill("[data-test=add-level] input[aria-label='from the plate']", "112").await?;
    b.until_text("[data-test=level]", "Loft · Floor").await?;
    b.wait("[data-test=level-line]").await?;
    b.fill("[data-test=first-course]", "50").await?;
    b.until_text("[data-test=courses-why]", "by your choice").await?;
    b.until_text("[data-test=courses-why]", "The best start").await?;
    b.click("[data-test=best-course]").await?;
    b.until("return !document.querySelector('[data-test=courses-why]').textContent.includes('by your choice')").await?;
    b.fill("[data-test=first-course]", "2").await?;
    b.until_text("[data-test=error]", "twice the lap").await?;
    b.end().await
}

#[tokio::test]
async fn a_course_is_dragged_and_one_run_off_level_is_told() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.press("w").await?;
    b.eval("document.activeElement.blur()").await?;
    b.press("0").await?;
    b.until("const g = document.querySelector('[data-test=course-grip]'); return !!g && g.getBoundingClientRect().width > 2").await?;
    b.eval(
        "const g = document.querySelector('[data-test=course-grip]'), r = g.getBoundingClientRect(), svg = document.querySelector('[data-test=elevation]'); \
         const at = (y) => ({ bubbles: true, pointerId: 1, clientX: r.x + r.width / 2, clientY: r.y + r.height / 2 + y }); \
         svg.setPointerCapture = () => {}; \
         g.dispatchEvent(new PointerEvent('pointerdown', at(0))); svg.dispatchEvent(new PointerEvent('pointermove', at(30))); svg.dispatchEvent(new PointerEvent('pointerup', at(30)))",
    )
    .await?;
    b.until_text("[data-test=courses-why]", "by your choice").await?;
    b.click("[data-test=undo]").await?;
    findings(&b).await?;
    b.choose("#mistake", "Off level: barrier (course 2)").await?;
    b.eval("document.querySelector('form.try button[type=submit]').click()").await?;
    b.until(&told("F26")).await?;
    b.end().await
}

#[tokio::test]
async fn two_pipes_are_flashed_as_one_and_the_rail_is_filtered_by_trade() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/4").await?;
    b.press("b").await?;
    b.wait("[data-test=plan-key]").await?;
    b.until("return document.querySelectorAll('[data-key-wall]').length === 7").await?;
    // As one list, not folded by place.
    b.eval("document.querySelector('[data-test=fold-by] button').click()").await?;
    b.eval("document.querySelector('[data-key-wall=\"1\"]').dispatchEvent(new MouseEvent('click', {bubbles: true}))")
        .await?;
    b.until("const [x, , w] = document.querySelector('[data-test=elevation]').getAttribute('viewBox').split(' ').map(Number); return x + w / 2 > 300 && x + w / 2 < 480 && w < 700").await?;
    let steps = "document.querySelectorAll('.rail [data-step]').length";
    b.eval("document.querySelector('[data-test=filter]').click()").await?;
    b.choose("#filter-trade", "Window crew").await?;
    b.until(&format!("return {steps} > 0 && [...document.querySelectorAll('.rail [data-step]')].every(e => e.dataset.step.includes('/'))")).await?;
    b.click("[data-test=filter-clear]").await?;
    b.until(&format!("return {steps} > 100")).await?;
    b.eval("document.querySelector('[data-opening=P2]').dispatchEvent(new PointerEvent('pointerdown', {bubbles: true, pointerId: 1})); document.querySelector('[data-test=elevation]').dispatchEvent(new PointerEvent('pointerup', {bubbles: true, pointerId: 1}))").await?;
    b.press("w").await?;
    b.choose("#with", "P5 · ").await?;
    b.fill("[data-test=together] input[aria-label='Sill above the plate']", "70").await?;
    b.until("return document.querySelectorAll('[data-opening]').length === 30 && !document.querySelector('[data-opening=P5]')").await?;
    b.click("[data-test=undo]").await?;
    b.until("return document.querySelectorAll('[data-opening]').length === 31").await?;
    b.end().await
}

#[tokio::test]
async fn the_station_shows_every_wall_and_one_line_a_cause() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/4").await?;
    b.press("b").await?;
    b.until("return document.querySelectorAll('[data-test=corner-line]').length === 6").await?;
    b.press("r").await?;
    b.until_text("[data-test=verdict]", "Water gets in").await?;
    for code in ["F24", "F29", "F30", "F34", "F35"] {
        b.until(&told(code)).await?;
    }
    b.until_text("[data-test=places]", "places: P6").await?;
    b.end().await
}

#[tokio::test]
async fn one_wall_gets_a_barrier_of_its_own_and_a_strip_over_the_corner() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/4").await?;
    b.press("b").await?;
    b.eval("[...document.querySelectorAll('[data-test=panels] button')].at(-1).click()").await?;
    let there = |piece: &str| format!("return !!document.querySelector('[data-piece=\"{piece}\"]')");
    b.until(&there("w6.panel-1-1")).await?;
    b.choose("#which-wall", "East wall").await?;
    b.until_text("[data-test=which-wall]", "East wall").await?;
    b.answer("#q--barrier", "Fluid").await?;
    b.until(&there("w5.coat")).await?;
    b.until(&there("w5.meeting/strip")).await?;
    b.until_text("[data-test=which-wall]", "own answers").await?;
    // Back to what all walls have: the sheet goes on round the corner.
    b.click("[data-question=barrier] button.plain").await?;
    b.until("return !document.querySelector('[data-piece=\"w5.coat\"]')").await?;
    b.until_text("[data-test=which-wall]", "East wall").await?;
    b.end().await
}

#[tokio::test]
async fn air_is_followed_through_the_gap_and_stopped_by_furring_that_stands_tight() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    how(&b).await?;
    b.answer("#q--gap", "Battens").await?;
    b.until("return !!document.querySelector('[data-piece=\"wall/battens\"]')").await?;
    b.click("[data-test=air-toggle]").await?;
    b.until("return !!document.querySelector('[data-test=air] [data-moves=true]') && !document.querySelector('[data-test=air] [data-moves=false]')").await?;
    b.answer("#q--furring", "Tight against sills, heads and corners").await?;
    b.until("return !!document.querySelector('[data-test=air] [data-moves=false]')").await?;
    b.until_text("[data-test=air-legend]", "shut off").await?;
    findings(&b).await?;
    b.until(&told("F35")).await?;
    b.until("return [...document.querySelectorAll('[data-test=finding]')].filter(f => f.textContent.includes('F35')).length === 1").await?;
    b.click("[data-test=undo]").await?;
    b.until(&told("F35").replace("return ", "return !")).await?;
    // Where nothing keeps the cladding off there is no gap to follow.
    b.click("[data-test=undo]").await?;
    b.until("return !document.querySelector('[data-test=air-toggle]')").await?;
    b.end().await
}

#[tokio::test]
async fn taped_laps_beads_across_heads_and_screens_left_out_are_told() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    let made = [
        ("barrier", "Drainable sheet", ""),
        ("laps", "Taped", "F27"),
        ("laps", "Open", ""),
        ("air", "The barrier on the wall", "F27"),
        ("air", "Another one", ""),
        ("gap", "Drainage mat", ""),
        ("cladding", "Plaster", ""),
        ("beads", "On all four sides", "F13"),
        ("beads", "At jambs and sill", ""),
    ];
    for (question, choice, code) in made {
        how(&b).await?;
        b.answer(&format!("#q--{question}"), choice).await?;
        findings(&b).await?;
        if !code.is_empty() {
            b.until(&told(code)).await?;
        } else {
            b.until("return ['F27', 'F13', 'F37'].every(c => ![...document.querySelectorAll('[data-test=finding]')].some(f => f.textContent.includes(c)))").await?;
        }
    }
    b.eval("document.querySelectorAll('[data-test=panels] button')[0].click()").await?;
    b.eval("document.querySelector('[data-step=\"wall/screens\"] .name').click()").await?;
    b.until_text("[data-test=card]", "Screens at the ends of the gap").await?;
    b.press("\u{e017}").await?;
    findings(&b).await?;
    b.until(&told("F37")).await?;
    b.end().await
}

#[tokio::test]
async fn walls_that_come_back_to_their_start_are_turned_round_their_last_corner() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.press("w").await?;
    b.fill("[data-test=wall-width]", "80'").await?;
    b.until("return !document.querySelector('[data-test=undo]').disabled").await?;
    let long = |b: &str| format!("return !!document.querySelector('[data-piece=\"{b}\"]')");
    b.until(&long("course-1")).await?;
    for (at, name) in [("20'", "East side"), ("40'", "Far side"), ("60'", "Boat side")] {
        b.fill("[data-test=add-corner] input[placeholder='Wall to its right']", name).await?;
        b.fill("[data-test=add-corner] input[placeholder='Corner at']", at).await?;
        b.until(&format!(
            "return [...document.querySelectorAll('[data-test=corner-line]')].some(c => c.textContent.includes('{name}'))"
        ))
        .await?;
    }
    // A course that goes all the way round is two lengths, the second one over the first past the corner.
    b.until(&long("course-1-2")).await?;
    b.until("return (document.querySelector('[data-piece=\"course-1-2\"] path')?.getAttribute('d').match(/M/g) ?? []).length > 1").await?;
    b.until_text("[data-test=verdict]", "Dry while the glue holds").await?;
    b.end().await
}
