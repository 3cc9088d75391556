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
    b.click("[data-test=found-all]").await?;
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
async fn on_a_phone_a_level_is_played_with_the_thumb() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = Browser::phone(390, 844).await?;
    b.client.goto(&format!("{}/practice/repair/2/4", kame.url)).await?;
    b.wait("[data-mend]").await?;
    b.is_for_everybody("late hole, phone").await?;
    b.until("return document.documentElement.scrollWidth <= 390").await?;
    b.end().await
}
