//! From key or pointer to paint in a real browser, beside what travels and how much stands in the page:
//! `cargo run --release -p kame-e2e --bin speed`. Figures go to docs/PERFORMANCE.md.

use anyhow::{Context, Result};
use kame_e2e::{Browser, Kame, building};
use serde_json::Value;

/// How often each thing is done; the middle is told.
const TIMES: usize = 5;

/// Milliseconds from something done in the page to the paint after which a condition holds.
async fn timed(b: &Browser, act: &str, until: &str) -> Result<f64> {
    let script = format!(
        "const done = arguments[arguments.length - 1]; const met = () => {{ {until} }}; const t0 = performance.now();
         const look = () => met() ? requestAnimationFrame(() => setTimeout(() => done(performance.now() - t0))) : requestAnimationFrame(look);
         {act}; look();"
    );
    b.client.execute_async(&script, vec![]).await?.as_f64().context("milliseconds")
}

/// Waits until nothing was asked of the server for a while, as where somebody looks at what they see.
async fn at_rest(b: &Browser) -> Result<()> {
    let script = "const done = arguments[arguments.length - 1]; const look = () => { const last = performance.getEntriesByType('resource').reduce((a, e) => Math.max(a, e.responseEnd), 0);
         if (performance.now() - last > 400) done(1); else setTimeout(look, 50); }; look();";
    b.client.execute_async(script, vec![]).await?;
    Ok(())
}

async fn middle_of(b: &Browser, act: impl Fn(usize) -> (String, String)) -> Result<f64> {
    let mut all = Vec::new();
    for n in 0..TIMES {
        let (act, until) = act(n);
        at_rest(b).await?;
        all.push(timed(b, &act, &until).await?);
    }
    all.sort_by(f64::total_cmp);
    Ok(all[TIMES / 2])
}

async fn measure(kame: &Kame, name: &str, id: i64) -> Result<()> {
    let b = Browser::start(1280, 800).await?;
    b.client.goto(&kame.url).await?;
    b.wait("[data-test=job]").await?;
    let url = format!("{}/jobs/{id}", kame.url);
    let mut open = Vec::new();
    for _ in 0..3 {
        b.client.goto(&url).await?;
        timed(
            &b,
            "",
            // A building opens whole: its places are drawn, and no piece of them.
            "return !!document.querySelector('[data-test=verdict]') && !!document.querySelector('svg [data-piece], [data-face-place]')",
        )
        .await?;
        // The clock of the page began when it was asked for.
        open.push(b.eval("return performance.now()").await?.as_f64().context("milliseconds")?);
    }
    open.sort_by(f64::total_cmp);
    let nodes = b.eval("return document.querySelectorAll('*').length").await?;
    let weight = b
        .eval("return performance.getEntriesByType('resource').filter(e => /api\\/jobs\\/\\d+/.test(e.name)).reduce((a, e) => Math.max(a, e.decodedBodySize), 0)")
        .await?;
    // The scrubber: the last action, after which every place is another; one action after the other amid the work; and somewhere else at once.
    let scrub = async |to: &dyn Fn(usize) -> String| {
        middle_of(&b, |n| {
            (
                format!("window.was = document.querySelector('[data-test=count]').textContent; const r = document.querySelector('[data-test=scrub]'); r.value = {}; r.dispatchEvent(new Event('input', {{bubbles: true}}))", to(n)),
                "return document.querySelector('[data-test=count]').textContent !== window.was".into(),
            )
        })
        .await
    };
    let last_action = scrub(&|n| format!("Number(r.max) - {}", 1 - n % 2)).await?;
    let jump = scrub(&|n| format!("Math.round(r.max * {} / 8)", [3, 5, 2, 6, 4][n % 5])).await?;
    let action = scrub(&|_| "Number(r.value) + 1".into()).await?;
    b.eval("const r = document.querySelector('[data-test=scrub]'); r.value = r.max; r.dispatchEvent(new Event('input', {bubbles: true})); return 1").await?;
    at_rest(&b).await?;
    // The same page without the program: all its nodes, of which one piece changes.
    b.eval("const app = document.querySelector('#app'); const plain = document.createElement('div'); plain.innerHTML = app.innerHTML; plain.id = 'plain'; plain.style.height = '100%'; app.replaceWith(plain); return 1").await?;
    let plain = middle_of(&b, |n| {
        (
            format!("const all = document.querySelectorAll('#plain svg [data-piece], #plain [data-face-place]'); all[all.length - 1].style.opacity = {n} / 10; document.querySelector('#plain [data-test=count]').textContent = '{n}'"),
            "return true".into(),
        )
    })
    .await?;
    b.client.goto(&format!("{url}?place=W1")).await?;
    b.wait("[data-test=verdict]").await?;
    b.until("const x = [...document.querySelectorAll('[data-test=panels] button')].find(x => x.textContent.trim() === 'Sizes'); if (!document.querySelector('[data-test=quick]')) x?.click(); return !!document.querySelector('[data-test=quick]')")
        .await?;
    let typed = middle_of(&b, |n| {
        let size = format!("28 {}/8 x 40", n + 1);
        (
            format!("const q = document.querySelector('[data-test=quick]'); q.value = '{size}'; q.dispatchEvent(new Event('input', {{bubbles: true}})); q.form.requestSubmit()"),
            "return document.querySelector('[data-test=quick]').value === ''".into(),
        )
    })
    .await?;
    let change = b
        .eval("return performance.getEntriesByType('resource').filter(e => /api\\/jobs\\/\\d+\\/edits/.test(e.name)).at(-1).decodedBodySize")
        .await?;
    // A window's right edge pulled: from the pointer's move to the paint of the wall that would be.
    let pull = |n: usize| {
        format!("const e = document.querySelector('[data-handle=right]'), r = e.getBoundingClientRect(), p = window.pull ??= {{x: r.x + r.width / 2, y: r.y + r.height / 2}};
        const go = (type, x) => (type === 'pointerdown' ? e : e.closest('svg')).dispatchEvent(new PointerEvent(type, {{bubbles: true, pointerId: 1, button: 0, isPrimary: true, clientX: x, clientY: p.y}}));
        window.was = document.querySelector('[data-opening]').getAttribute('width');
        if ({n} === 0) {{ SVGElement.prototype.setPointerCapture = () => undefined; go('pointerdown', p.x); }} go('pointermove', p.x + 12 * ({n} + 1))")
    };
    let drag = middle_of(&b, |n| {
        (pull(n), "return document.querySelector('[data-opening]').getAttribute('width') !== window.was".into())
    })
    .await?;
    // Rain and dry in turn: the answer is there, and a frame after it is painted.
    let rain = middle_of(&b, |n| {
        (
            format!("window.were = performance.getEntriesByType('resource').length; document.querySelectorAll('[data-test=weather] button')[{}].click()", (n + 1) % 2),
            "return performance.getEntriesByType('resource').length > window.were".into(),
        )
    })
    .await?;
    let kilo = |v: Value| v.as_f64().unwrap_or(0.0) / 1000.0;
    println!(
        "| {name} | {:.0} ms | {action:.0} ms | {jump:.0} ms | {last_action:.0} ms | {typed:.0} ms | {drag:.0} ms | {rain:.0} ms | {plain:.0} ms | {nodes} | {:.0} kB | {:.0} kB |",
        open[1],
        kilo(weight),
        kilo(change)
    );
    b.end().await
}

#[tokio::main]
async fn main() -> Result<()> {
    let kame = Kame::start(true).await?;
    println!(
        "| features | open | one action | elsewhere | the last action | a size typed | an edge pulled | rain | one piece of the same page without the program | nodes | largest answer | a change |\n|---|---|---|---|---|---|---|---|---|---|---|---|"
    );
    for (name, windows, pipes) in [("1", 1, 0), ("31", 15, 16), ("320", 120, 200)] {
        let answer: Value = reqwest::Client::new()
            .post(format!("{}/api/import", kame.url))
            .header("Origin", &kame.url)
            .json(&building(windows, pipes))
            .send()
            .await?
            .error_for_status()?
            .json()
            .await?;
        let id = answer["id"].as_i64().or(answer["state"]["id"].as_i64()).context("the job's id")?;
        measure(&kame, name, id).await?;
    }
    Ok(())
}
