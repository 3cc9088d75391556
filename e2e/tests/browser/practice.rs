//! Practice in a real browser: laid by keys, found by touch and by list, and what comes of it kept.

use crate::open;
use anyhow::Result;
use kame_e2e::{Browser, Kame};

#[tokio::test]
async fn pieces_are_laid_by_keys_rained_on_and_the_result_is_kept() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/").await?;
    b.click("[data-test=to-practice]").await?;
    b.fill("[data-test=learner]", "Cy").await?;
    b.eval("document.querySelector('[data-test=learner]').blur()").await?;
    b.until_text("[data-test=practice]", "is kept for Cy").await?;
    b.is_for_everybody("practice").await?;
    b.client.goto(&format!("{}/practice/order/1/5", kame.url)).await?;
    b.wait("[data-lay]").await?;
    b.is_for_everybody("put it in order").await?;
    // By keys alone: each piece is a button.
    for left in [3, 2, 1] {
        b.until(&format!("return document.querySelectorAll('[data-lay]').length === {left}")).await?;
        b.eval("document.querySelector('[data-lay]').focus()").await?;
        b.press("\u{e007}").await?;
    }
    b.click("[data-test=let-it-rain]").await?;
    b.until_text("[data-test=graded]", "100").await?;
    b.is_for_everybody("what came of it").await?;
    b.click("[data-test=again]").await?;
    b.until("return document.querySelectorAll('[data-lay]').length === 3").await?;
    b.client.goto(&format!("{}/practice", kame.url)).await?;
    b.until_text("[data-test=practice-chart]", "Cy").await?;
    b.end().await
}

#[tokio::test]
async fn what_is_wrong_is_touched_or_chosen_and_every_drill_can_be_answered() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/practice/find/2/3").await?;
    b.wait("[data-piece]").await?;
    b.eval("document.querySelector('[data-piece]').dispatchEvent(new MouseEvent('click', { bubbles: true }))").await?;
    b.wait("[data-test=mark]").await?;
    b.is_for_everybody("find it").await?;
    // What is marked says how it lies; where nothing lies a sentence says so.
    b.until("return /Over|Behind|Beads/.test(document.querySelector('.lies').textContent)").await?;
    b.eval("document.querySelector('[data-test=practice-wall] .ground').dispatchEvent(new MouseEvent('click', { bubbles: true }))").await?;
    b.until_text("[data-test=bare]", "Nothing lies there").await?;
    // The same is looked at in a section and drawn apart, and marked there; a hint says where to look and has its price.
    b.click("[data-view=section]").await?;
    b.wait("[data-test=built] .run").await?;
    let marks = "return document.querySelectorAll('[data-test=mark]').length";
    let before = b.eval(marks).await?;
    b.eval("const all = [...document.querySelectorAll('[data-test=mark] b')].map((e) => e.textContent);
            const run = [...document.querySelectorAll('.run')].find((r) => !all.includes(r.querySelector('title').textContent));
            run.dispatchEvent(new MouseEvent('click', { bubbles: true }))").await?;
    b.until(&format!("return document.querySelectorAll('[data-test=mark]').length === {before} + 1")).await?;
    b.is_for_everybody("find it in a section").await?;
    b.click("[data-view=apart]").await?;
    b.wait("[data-apart]").await?;
    b.is_for_everybody("find it drawn apart").await?;
    b.click("[data-test=hint]").await?;
    b.until("return /Look at|is marked/.test(document.querySelector('[data-test=hint-says]').textContent)").await?;
    b.click("[data-test=found-all]").await?;
    // What was found is mended: one repair is chosen for each that has some, and there is an end to it.
    b.until(
        "if (document.querySelector('[data-test=graded]')) return true;
             const groups = [...document.querySelectorAll('.mend .choices')].filter((g) => g.children.length);
             groups.forEach((g) => g.lastElementChild.click());
             document.querySelector('[data-test=found-mended]')?.click(); return false",
    )
    .await?;
    b.until_text("[data-test=graded]", "of 100").await?;
    for (path, fill, go) in [
        (
            "measure/1/2",
            "for (const e of document.querySelectorAll('[data-measure]')) { e.value = '40'; e.dispatchEvent(new Event('input')) }",
            "cut-them",
        ),
        ("call/1/2", "document.querySelectorAll('[data-call$=\"-go\"]').forEach((e) => e.click())", "call-it"),
        ("repair/1/2", "document.querySelectorAll('[data-mend$=\"-0\"]').forEach((e) => e.click())", "mend-it"),
    ] {
        b.client.goto(&format!("{}/practice/{path}", kame.url)).await?;
        b.wait(&format!("[data-test={go}]")).await?;
        if path.starts_with("measure") {
            b.click("[data-test=tape-across]").await?;
            b.until_text("[data-test=tape-reads]", "The tape reads").await?;
        }
        b.is_for_everybody(path).await?;
        b.eval(fill).await?;
        b.click(&format!("[data-test={go}]")).await?;
        b.until_text("[data-test=graded]", "100").await?;
    }
    // Nonsense in the address is a sentence.
    b.client.goto(&format!("{}/practice/find/1/3?job=99", kame.url)).await?;
    b.until_text("[data-test=practice-wrong]", "there is no job 99").await?;
    b.end().await
}

#[tokio::test]
async fn a_drill_on_the_jobs_own_wall_is_set_by_its_address_and_says_who_answered_it() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/practice").await?;
    b.fill("[data-test=learner]", "Cy").await?;
    b.eval("document.querySelector('[data-test=learner]').blur()").await?;
    b.until_text("[data-test=practice]", "is kept for Cy").await?;
    b.client.goto(&format!("{}/practice/call/2/5?job=2", kame.url)).await?;
    b.click("[data-test=set-drill] summary").await?;
    b.until_text("[data-test=set-drill]", "Nobody has answered it yet").await?;
    b.eval("document.querySelectorAll('[data-call$=\"-wait\"]').forEach((e) => e.click())").await?;
    b.click("[data-test=call-it]").await?;
    b.until_text("[data-test=played]", "Cy").await?;
    b.is_for_everybody("a drill that is set").await?;
    // Another scene of the same wall is another drill.
    b.client.goto(&format!("{}/practice/call/2/6?job=2", kame.url)).await?;
    b.wait("[data-test=call-it]").await?;
    b.until("return document.querySelector('[data-test=played]') === null").await?;
    b.end().await
}

#[tokio::test]
async fn without_a_signal_scenes_are_played_graded_as_they_would_be_and_kept_later() -> Result<()> {
    let mut kame = Kame::start(true).await?;
    let b = open(&kame, "/practice").await?;
    b.fill("[data-test=learner]", "Cy").await?;
    b.eval("document.querySelector('[data-test=learner]').blur()").await?;
    b.wait("[data-test=practice-along]").await?;
    let here = b.eval("return JSON.parse(localStorage.getItem('kame-practice-along'))").await?;
    let seed = |drill: &str| {
        let all = here.as_array().into_iter().flatten();
        all.filter(|x| x["drill"] == drill).filter_map(|x| x["seed"].as_u64()).next_back().unwrap_or_default()
    };
    kame.silence().await?;
    // One that is on no device leads to one that is on this.
    b.client.goto(&format!("{}/practice/order/1/77", kame.url)).await?;
    b.until("return document.querySelectorAll('[data-lay]').length === 3").await?;
    let path = b.eval("return location.pathname").await?;
    let order: u64 = path.as_str().and_then(|p| p.rsplit('/').next()).and_then(|n| n.parse().ok()).unwrap_or_default();
    for left in [3, 2, 1] {
        b.until(&format!("return document.querySelectorAll('[data-lay]').length === {left}")).await?;
        b.eval("document.querySelector('[data-lay]').click()").await?;
    }
    let shapes = "return document.querySelectorAll('[data-test=practice-wall] .area').length";
    b.until(&format!("{shapes} > 2")).await?;
    b.click("[data-test=let-it-rain]").await?;
    b.wait("[data-test=graded]").await?;
    let points = "return document.querySelector('[data-test=graded] h2').textContent";
    let (ordered, says) = (b.eval(points).await?, "return document.querySelector('[data-test=graded] ul').textContent");
    let order_says = b.eval(says).await?;
    b.client.goto(&format!("{}/practice/call/1/{}", kame.url, seed("call"))).await?;
    b.wait("[data-test=call-it]").await?;
    b.eval("document.querySelectorAll('[data-call$=\"-go\"]').forEach((e) => e.click())").await?;
    b.click("[data-test=call-it]").await?;
    b.wait("[data-test=graded]").await?;
    let (called, call_says) = (b.eval(points).await?, b.eval(says).await?);
    b.until_text("[data-test=practice-waits]", "2 answers wait").await?;
    b.is_for_everybody("practice without a signal").await?;
    // With a signal both are kept, and the same answers get the same there.
    kame.speak().await?;
    b.client.execute("dispatchEvent(new Event('online'))", vec![]).await?;
    b.until("return document.querySelector('[data-test=practice-waits]') === null").await?;
    let kept: serde_json::Value = reqwest::get(format!("{}/api/practice/progress", kame.url)).await?.json().await?;
    let cy = kept["people"].as_array().into_iter().flatten().find(|p| p["who"] == "Cy");
    assert!(cy.is_some(), "{kept}");
    b.client.goto(&format!("{}/practice/call/1/{}", kame.url, seed("call"))).await?;
    b.wait("[data-test=call-it]").await?;
    b.eval("document.querySelectorAll('[data-call$=\"-go\"]').forEach((e) => e.click())").await?;
    b.click("[data-test=call-it]").await?;
    b.wait("[data-test=graded]").await?;
    assert_eq!((b.eval(points).await?, b.eval(says).await?), (called, call_says));
    b.client.goto(&format!("{}/practice/order/1/{order}", kame.url)).await?;
    for left in [3, 2, 1] {
        b.until(&format!("return document.querySelectorAll('[data-lay]').length === {left}")).await?;
        b.eval("document.querySelector('[data-lay]').click()").await?;
    }
    b.click("[data-test=let-it-rain]").await?;
    b.wait("[data-test=graded]").await?;
    assert_eq!((b.eval(points).await?, b.eval(says).await?), (ordered, order_says));
    b.end().await
}

#[tokio::test]
async fn without_a_signal_a_drill_that_was_set_on_the_jobs_own_wall_is_played_with_its_hints() -> Result<()> {
    let mut kame = Kame::start(true).await?;
    // Opened once with a signal, the drill is on this device: six steps of a wall with a window.
    let b = open(&kame, "/practice/order/4/5?job=2").await?;
    b.wait("[data-lay]").await?;
    b.until("return (localStorage.getItem('kame-practice-along') ?? '').includes('\"job\":2')").await?;
    kame.silence().await?;
    b.client.goto(&format!("{}/practice/order/4/5?job=2", kame.url)).await?;
    // Who follows each hint lays it right, and pays for every one.
    let left = "return document.querySelectorAll('[data-lay]').length";
    for n in (1..=6).rev() {
        b.until(&format!("{left} === {n}")).await?;
        b.click("[data-test=hint]").await?;
        b.until("return /^Next: /.test(document.querySelector('[data-test=hint-says]').textContent)").await?;
        b.eval(
            "const next = document.querySelector('[data-test=hint-says]').textContent.replace('Next: ', '').replace(/\\.$/, '');
             [...document.querySelectorAll('[data-lay]')]
                .find((e) => e.querySelector('b').textContent.trim().toLowerCase() === next).click()",
        )
        .await?;
    }
    b.click("[data-test=let-it-rain]").await?;
    b.until_text("[data-test=graded]", "10 of 100").await?;
    b.until_text("[data-test=graded]", "every order that works is right").await?;
    // Another job's wall is not on this device.
    b.client.goto(&format!("{}/practice/order/4/5?job=3", kame.url)).await?;
    b.until_text("[data-test=practice-wrong]", "no scene of this drill is on this device").await?;
    b.end().await
}

#[tokio::test]
async fn on_a_phone_a_level_is_played_with_the_thumb() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::phone(390, 844).await?;
    b.client.goto(&format!("{}/practice/repair/2/4", kame.url)).await?;
    b.wait("[data-mend]").await?;
    b.is_for_everybody("late hole, phone").await?;
    b.until("return document.documentElement.scrollWidth <= 390").await?;
    b.end().await
}
