//! Makes the pictures of the documentation from the demo job: `cargo run -p kame-e2e --bin pictures -- docs/screenshots`.

use anyhow::Result;
use kame_e2e::{Browser, Kame};
use std::path::{Path, PathBuf};

/// Clicks something as soon as it can be clicked.
async fn press(b: &Browser, css: &str) -> Result<()> {
    let css = serde_json::to_string(css)?;
    b.until(&format!(
        "const e = document.querySelector({css}); if (!e || e.disabled) return false; e.click(); return true"
    ))
    .await
}

/// Inches and sixteenths on the keypad.
async fn number(b: &Browser, whole: &str, sixteenths: u32) -> Result<()> {
    for key in whole.chars() {
        press(b, &format!("[data-key='{key}']")).await?;
    }
    press(b, &format!("[data-fraction='{sixteenths}']")).await
}

/// Pictures beside each other as one, drawn by the browser.
async fn side_by_side(b: &Browser, all: &[PathBuf], out: &Path) -> Result<()> {
    let read = |p: &PathBuf| Ok(serde_json::to_value(std::fs::read(p)?)?);
    let bytes = all.iter().map(read).collect::<Result<Vec<_>>>()?;
    let draw = "const [all, done] = arguments; (async () => {
        const pictures = await Promise.all(all.map((bytes) => createImageBitmap(new Blob([new Uint8Array(bytes)]))));
        const canvas = document.createElement('canvas');
        const gap = 12;
        canvas.width = pictures.reduce((w, p) => w + p.width + gap, -gap);
        canvas.height = Math.max(...pictures.map((p) => p.height));
        let x = 0;
        for (const p of pictures) { canvas.getContext('2d').drawImage(p, x, 0); x += p.width + gap; }
        canvas.toBlob(async (blob) => done([...new Uint8Array(await blob.arrayBuffer())]));
    })()";
    let made = b.client.execute_async(draw, vec![serde_json::Value::Array(bytes)]).await?;
    std::fs::write(out, serde_json::from_value::<Vec<u8>>(made)?)?;
    Ok(())
}

/// The door, and who is behind it.
async fn people(b: &Browser, door: &Path, behind: &Path) -> Result<()> {
    let (kame, code) = Kame::signing_in().await?;
    b.client.goto(&kame.url).await?;
    b.wait("[data-test=sign-in]").await?;
    for (field, text) in [("code", code.as_str()), ("name", "Ada Finch"), ("login", "ada")] {
        // Without Enter, which would send what is not whole yet.
        b.eval(&format!("const e = document.querySelector('[data-test={field}]'); e.value = '{text}'; e.dispatchEvent(new Event('input', {{bubbles: true}}))")).await?;
    }
    b.picture(door).await?;
    b.fill("[data-test=password]", "tide rope lantern gull").await?;
    b.click("[data-test=to-people]").await?;
    b.click("[data-test=invite]").await?;
    b.wait("[data-test=invited]").await?;
    b.eval("document.querySelector('[data-test=audit]').open = true").await?;
    b.picture(behind).await
}

/// Where pictures go.
struct Folder(PathBuf);

impl Folder {
    /// A picture that is kept.
    fn shot(&self, name: &str) -> PathBuf {
        self.0.join(format!("{name}.png"))
    }

    /// A part of one, until it is put together.
    fn part(&self, n: usize) -> PathBuf {
        self.0.join(format!("part-{n}.png"))
    }

    fn forget(&self, parts: impl IntoIterator<Item = usize>) -> Result<()> {
        parts.into_iter().try_for_each(|n| Ok(std::fs::remove_file(self.part(n))?))
    }
}

#[tokio::main]
async fn main() -> Result<()> {
    let folder = Folder(PathBuf::from(std::env::args().nth(1).unwrap_or_else(|| "docs/screenshots".into())));
    let kame = Kame::with_instruments(true).await?;
    let b = Browser::start(1280, 800).await?;
    wall(&b, &kame, &folder).await?;
    ways(&b, &kame, &folder).await?;
    building(&b, &kame, &folder).await?;
    on_the_wall(&b, &kame, &folder).await?;
    found(&b, &kame, &folder).await?;
    b.end().await
}

/// The list, a step, a section, a leak and the cut list.
async fn wall(b: &Browser, kame: &Kame, folder: &Folder) -> Result<()> {
    b.client.goto(&kame.url).await?;
    b.wait("[data-test=job]").await?;
    b.until("return document.querySelectorAll('[data-test=progress]').length === document.querySelectorAll('[data-test=job]').length").await?;
    b.picture(&folder.shot("jobs")).await?;

    b.client.goto(&format!("{}/jobs/2", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.eval("document.querySelector('[data-step=\"W1/pan\"] .name').click()").await?;
    b.until_text("[data-test=card]", "stretch membrane").await?;
    b.wait("[data-test=card] [data-test=step-picture]").await?;
    b.until("return !document.querySelector('[data-piece=\"W1/unit\"]') && !!document.querySelector('[data-piece=\"W1/pan\"]')").await?;
    b.picture(&folder.shot("step")).await?;
    b.press("\u{e010}").await?;
    b.press("s").await?;
    b.press("r").await?;
    b.press("r").await?;
    b.until("return document.querySelectorAll('[data-test=finding]').length > 0 && !!document.querySelector('[data-test=section] svg')").await?;
    b.picture(&folder.shot("section")).await?;

    b.client.goto(&format!("{}/jobs/1", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.press("r").await?;
    b.wait("[data-test=way]").await?;
    b.picture(&folder.shot("leak")).await?;
    b.client.goto(&format!("{}/jobs/2/cut-list", kame.url)).await?;
    b.wait("[data-test=cut-list] table").await?;
    b.picture(&folder.shot("cut-list")).await?;
    Ok(())
}

/// Four openings in four recipes: how they are made, nights, the stack drawn apart, schools side by side, a step sheet, the strategy.
async fn ways(b: &Browser, kame: &Kame, folder: &Folder) -> Result<()> {
    b.client.goto(&format!("{}/jobs/3", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    b.press("0").await?;
    b.press("n").await?;
    b.wait("[data-test=night]").await?;
    b.eval("document.querySelector('[data-step=\"W3/head\"] .name').click()").await?;
    b.until_text("[data-test=night-card]", "Cover Reading window").await?;
    b.picture(&folder.shot("tonight")).await?;
    b.press("n").await?;
    b.press("\u{e010}").await?;
    b.eval("[...document.querySelectorAll('[data-test=panels] button')].at(-1).click()").await?;
    b.wait("[data-question=sill]").await?;
    for _ in 0..6 {
        b.press("s").await?;
    }
    b.wait("[data-test=exploded]").await?;
    b.picture(&folder.shot("apart")).await?;
    b.client.goto(&format!("{}/jobs/2/compare", kame.url)).await?;
    b.wait("[data-test=comparison]").await?;
    b.choose("#c-sill", "Soldered metal pan").await?;
    b.until_text("[data-test=comparison]", "Soldered metal pan").await?;
    b.eval("scrollTo(0, 0)").await?;
    b.picture(&folder.part(8)).await?;
    b.client.goto(&format!("{}/jobs/3/steps", kame.url)).await?;
    b.wait("[data-test=sheet] [data-test=exploded]").await?;
    b.picture(&folder.shot("step-sheet")).await?;
    b.client.goto(&format!("{}/jobs/3/start", kame.url)).await?;
    for answer in
        ["lap", "windy", "wet", "cool", "months", "one", "soon", "middle", "tight", "used", "plain", "none", "3 1/2"]
    {
        b.click(&format!("[data-answer=\"{answer}\"]")).await?;
    }
    b.until("return document.querySelectorAll('[data-test=advice] svg').length > 3").await?;
    b.eval("document.querySelector('[data-advice=A1]').scrollIntoView()").await?;
    b.picture(&folder.part(9)).await?;
    side_by_side(b, &[folder.part(9), folder.part(8)], &folder.shot("strategy")).await?;
    folder.forget([8, 9])?;
    Ok(())
}

/// A building, its openings from a schedule and a model, what to order, and its days.
async fn building(b: &Browser, kame: &Kame, folder: &Folder) -> Result<()> {
    b.client.goto(&format!("{}/jobs/4", kame.url)).await?;
    b.wait("[data-test=rows] [data-face-place]").await?;
    b.eval("document.querySelector('[data-wall=\"0\"] summary').click()").await?;
    b.wait("[data-place=W1] svg[aria-label*=\"Glue lost\"]").await?;
    b.picture(&folder.part(0)).await?;
    b.eval("const r = document.querySelector('[data-test=scrub]'); r.value = 560; r.dispatchEvent(new Event('input', {bubbles: true}))").await?;
    b.eval("document.querySelectorAll('[data-test=building-form] button')[1].click()").await?;
    b.eval("document.querySelectorAll('[data-test=building-by] button')[1].click()").await?;
    b.until("return document.querySelectorAll('[data-test=scene] .place.finished').length > 2").await?;
    b.picture(&folder.part(1)).await?;
    side_by_side(b, &[folder.part(0), folder.part(1)], &folder.shot("building")).await?;
    b.client.goto(&format!("{}/jobs/4/schedule", kame.url)).await?;
    b.wait("[data-test=schedule]").await?;
    b.eval("const f = new File(['Mark,Type,Width,Height,Sill,Room\\nS1,window,36,48,32,Net store\\nS2,hose tap,1 1/2,,12,Yard\\nS3,window,,48,32,Wet lab\\nS4,chimney,10,10,10,Roof\\n'], 'schedule.csv'); const d = new DataTransfer(); d.items.add(f); const i = document.querySelector('[data-test=schedule-file]'); i.files = d.files; i.dispatchEvent(new Event('change'))").await?;
    b.wait("[data-test=bad-rows]").await?;
    b.picture(&folder.part(8)).await?;
    b.client.goto(&format!("{}/model", kame.url)).await?;
    let ifc = concat!(env!("CARGO_MANIFEST_DIR"), "/../crates/kame-formats/tests/formats/models/boat-shed-ifc4.ifc");
    b.wait("[data-test=model] input[type=file]")
        .await?
        .send_keys(&std::fs::canonicalize(ifc)?.to_string_lossy())
        .await?;
    b.wait("[data-test=take-model]").await?;
    b.picture(&folder.part(9)).await?;
    side_by_side(b, &[folder.part(8), folder.part(9)], &folder.shot("schedule")).await?;
    folder.forget([8, 9])?;
    b.client.goto(&format!("{}/jobs/4/truck", kame.url)).await?;
    // The list is drawn anew once it is nested: until then a press may meet a line that is gone.
    b.until("if (document.querySelector('[data-test=line-more]')) return true; document.querySelector('[data-line=\"Flashing tape\"] button')?.click(); return false").await?;
    b.eval("document.querySelector('[data-line=\"Adhered barrier sheet\"]').scrollIntoView()").await?;
    b.picture(&folder.shot("order")).await?;
    // A bar is pulled two days on, and the wall is looked at in the rain of an afternoon.
    b.client.goto(&format!("{}/jobs/3/truck/days", kame.url)).await?;
    b.wait("[data-bar=D1]").await?;
    b.eval("const bar = document.querySelector('[data-bar=D1]'), r = bar.getBoundingClientRect(); SVGElement.prototype.setPointerCapture = () => undefined; for (const [type, x] of [['pointerdown', 0], ['pointermove', 336], ['pointerup', 336]]) bar.dispatchEvent(new PointerEvent(type, {bubbles: true, pointerId: 1, button: 0, clientX: r.x + 4 + x, clientY: r.y + 5}))").await?;
    b.until_text("[data-test=what-if-says]", "Done").await?;
    b.eval("document.querySelector('[data-test=calendar-rows]').scrollIntoView()").await?;
    b.picture(&folder.part(8)).await?;
    b.click("[data-test=what-if-drop]").await?;
    b.click("[data-test=hour-open]").await?;
    b.eval("const e = document.querySelector('[data-test=hour-range]'); e.value = Math.round(e.max * 0.45); e.dispatchEvent(new Event('input')); document.querySelector('[data-test=hour-rain]').click()").await?;
    b.until("return document.querySelectorAll('[data-test=hour-wet]').length > 0").await?;
    b.eval("document.querySelector('[data-test=calendar-rows]').scrollIntoView()").await?;
    b.picture(&folder.part(9)).await?;
    side_by_side(b, &[folder.part(8), folder.part(9)], &folder.shot("days")).await?;
    folder.forget([8, 9])?;
    Ok(())
}

/// On the wall: several views of a phone in one picture; and the record.
async fn on_the_wall(b: &Browser, kame: &Kame, folder: &Folder) -> Result<()> {
    let phone = Browser::phone(390, 844).await?;
    let one = |n: usize| folder.0.join(format!("phone-{n}.png"));
    phone.client.goto(&format!("{}/jobs/2/site/W1", kame.url)).await?;
    phone.fill("[data-test=who]", "Ada").await?;
    press(&phone, "[data-test=measure-open]").await?;
    for (whole, part) in [("41", 0), ("41", 0), ("40", 12)] {
        number(&phone, whole, part).await?;
        press(&phone, "[data-test=next-reading]").await?;
    }
    press(&phone, "[data-spot='opening-diagonals 0']").await?;
    number(&phone, "73", 12).await?;
    press(&phone, "[data-test=next-reading]").await?;
    number(&phone, "74", 8).await?;
    phone.until_text("[data-test=says]", "Push the head").await?;
    phone.picture(&one(1)).await?;
    press(&phone, "[data-test=shims]").await?;
    phone.wait("[data-test=shim]").await?;
    phone.picture(&one(2)).await?;
    press(&phone, ".site-sheet .plain").await?;
    phone.until("if (document.querySelector('h2[data-step]').dataset.step === 'W1/jambs') return true; document.querySelector('[data-test=after]').click(); return false").await?;
    phone.wait("[data-test=step-picture]").await?;
    phone.eval("scrollTo(0, 0)").await?;
    phone.picture(&one(0)).await?;
    press(&phone, "[data-test=go-open]").await?;
    for (field, value) in [("surface_f", "34"), ("air_f", "38"), ("humidity", "90"), ("rain_in_h", "1")] {
        phone.eval(&format!("const e = document.querySelector('[data-test={field}]'); e.value = '{value}'; e.dispatchEvent(new Event('change'))")).await?;
    }
    phone.until_text("[data-test=go]", "Rain in 1 h").await?;
    phone.picture(&one(3)).await?;
    // A test with water: one spot where it should come out, one where it should not.
    phone.client.goto(&format!("{}/jobs/3/site/W1", kame.url)).await?;
    press(&phone, "[data-test=test-open]").await?;
    press(&phone, "[data-kind=drainage]").await?;
    phone.wait("[data-test=test-picture]").await?;
    for (cell, value) in [(0, "2"), (1, "1.9"), (2, "5")] {
        phone.eval(&format!("const e = document.querySelector(\"[data-cell='0 {cell}']\"); e.value = '{value}'; e.dispatchEvent(new Event('input'))")).await?;
    }
    for (n, (x, y)) in [(0.5, 0.86), (0.12, 0.5)].into_iter().enumerate() {
        phone.eval(&format!("const e = document.querySelector('[data-test=test-picture]'), r = e.getBoundingClientRect(); e.dispatchEvent(new MouseEvent('click', {{ bubbles: true, clientX: r.left + r.width * {x}, clientY: r.top + r.height * {y} }}))")).await?;
        phone.until(&format!("return document.querySelectorAll('[data-test=seen-spot]').length === {}", n + 1)).await?;
    }
    press(&phone, "[data-test=ask-test]").await?;
    phone.wait("[data-test=spot-says]").await?;
    phone.eval("document.querySelector('[data-test=test-picture]').scrollIntoView()").await?;
    phone.picture(&one(4)).await?;
    side_by_side(&phone, &(0..5).map(one).collect::<Vec<_>>(), &folder.shot("site")).await?;
    phone.client.goto(&format!("{}/jobs/2/site/W1", kame.url)).await?;
    phone.until("const e = document.querySelector('h2[data-step]'); if (e?.dataset.step === 'W1/jambs') return true; document.querySelector('[data-test=after]')?.click(); return false").await?;
    press(&phone, "[data-test=otherwise]").await?;
    press(&phone, "[data-different=piece]").await?;
    press(&phone, "[data-way=short-left]").await?;
    press(&phone, "[data-test=ask-water]").await?;
    phone.wait("[data-test=holds]").await?;
    phone.picture(&one(0)).await?;
    phone.client.goto(&format!("{}/jobs/3/site/W3", kame.url)).await?;
    phone.until_text("[data-test=held]", "Nothing that follows").await?;
    phone.eval("document.querySelector('[data-test=held]').scrollIntoView({block: 'center'})").await?;
    phone.picture(&one(1)).await?;
    press(&phone, "[data-test=look-now]").await?;
    let taken = one(2);
    let input = phone.wait("[data-test=photo-file]").await?;
    input.send_keys(taken.canonicalize()?.to_str().unwrap_or_default()).await?;
    phone.wait("[data-test=check-sheet] img").await?;
    phone.picture(&one(2)).await?;
    phone.client.goto(&format!("{}/jobs/3/walk", kame.url)).await?;
    press(&phone, "[data-test=all]").await?;
    phone.wait("[data-point]").await?;
    phone.picture(&one(3)).await?;
    side_by_side(&phone, &(0..4).map(one).collect::<Vec<_>>(), &folder.shot("check")).await?;
    for n in 0..5 {
        std::fs::remove_file(one(n))?;
    }
    b.client.goto(&format!("{}/jobs/3/record", kame.url)).await?;
    b.wait("[data-entry]").await?;
    b.click("[data-test=verify]").await?;
    b.wait("[data-test=whole]").await?;
    b.picture(&folder.part(0)).await?;
    damage_page(kame, &folder.part(1)).await?;
    side_by_side(b, &[folder.part(0), folder.part(1)], &folder.shot("record")).await?;
    folder.forget([0, 1])?;
    phone.end().await?;
    Ok(())
}

/// The page to send about a unit that came damaged, as it is printed.
async fn damage_page(kame: &Kame, out: &Path) -> Result<()> {
    let pdf = reqwest::get(format!("{}/api/jobs/3/damage.pdf?opening=W3", kame.url)).await?.error_for_status()?;
    let (paper, drawn) = (out.with_extension("pdf"), out.with_extension(""));
    std::fs::write(&paper, pdf.bytes().await?)?;
    let plain = ["-png", "-singlefile", "-r", "73"];
    let drew = std::process::Command::new("pdftoppm").args(plain).args([&paper, &drawn]).status()?;
    anyhow::ensure!(drew.success(), "pdftoppm (Debian's poppler-utils) draws the page");
    Ok(std::fs::remove_file(paper)?)
}

/// What is found and what mends it; drills, and who can do what.
async fn found(b: &Browser, kame: &Kame, folder: &Folder) -> Result<()> {
    b.client.goto(&format!("{}/jobs/2/repair", kame.url)).await?;
    b.click("[data-found-kind=tear]").await?;
    b.wait("[data-test=found-pick]").await?;
    b.eval("const s = document.querySelector('[data-test=found-pick]'), r = s.getBoundingClientRect(); s.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: r.left + r.width * 0.2, clientY: r.top + r.height * 0.72 }))").await?;
    b.wait("[data-test=proposal]").await?;
    b.picture(&folder.shot("repair")).await?;
    b.client.goto(&format!("{}/practice/order/3/7", kame.url)).await?;
    b.click("[data-lay=\"W1/slope\"]").await?;
    b.click("[data-lay=\"W1/pan\"]").await?;
    b.until("return document.querySelectorAll('[data-lay]').length === 3").await?;
    b.picture(&folder.part(0)).await?;
    b.client.goto(&format!("{}/practice/find/3/7", kame.url)).await?;
    b.wait("[data-piece]").await?;
    b.eval("document.querySelector('[data-piece*=jamb]').dispatchEvent(new MouseEvent('click', { bubbles: true }))")
        .await?;
    b.wait("[data-test=mark]").await?;
    b.picture(&folder.part(1)).await?;
    b.client.goto(&format!("{}/practice", kame.url)).await?;
    b.wait("[data-test=practice-chart]").await?;
    b.picture(&folder.part(2)).await?;
    side_by_side(b, &[folder.part(0), folder.part(1), folder.part(2)], &folder.shot("practice")).await?;
    people(b, &folder.part(0), &folder.part(1)).await?;
    side_by_side(b, &[folder.part(0), folder.part(1)], &folder.shot("people")).await?;
    folder.forget(0..3)?;
    Ok(())
}
