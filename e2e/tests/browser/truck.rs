//! Bench and truck in the browser: what to buy and to load, the kit and the figures as files, what touches, and two people at one bench.

use anyhow::Result;
use fantoccini::Locator;
use kame_e2e::{Browser, Kame};

async fn open(kame: &Kame, path: &str) -> Result<Browser> {
    let b = Browser::start(1280, 800).await?;
    b.client.goto(&format!("{}{path}", kame.url)).await?;
    Ok(b)
}

/// Opens a part of the truck, the days or the kit by the navigation.
async fn tab(b: &Browser, name: &str) -> Result<()> {
    let room = match name {
        "Days" => return b.click("[data-test=to-days]").await,
        "Order" | "Quantities" | "Reckon" => "truck",
        _ => "kit",
    };
    b.click(&format!("[data-test=to-{room}]")).await?;
    b.until(&format!(
        "const x = [...document.querySelectorAll('[data-test=truck-tabs] button')].find(x => x.textContent.trim() === '{name}'); if (!x) return false; x.click(); return true"
    ))
    .await
}

/// Gives a file to an input, as a person would choose it.
async fn give(b: &Browser, input: &str, name: &str, text: &str) -> Result<()> {
    b.wait(&format!("[data-test={input}]")).await?;
    let script = format!(
        "const f = new File([{text:?}], {name:?}); const d = new DataTransfer(); d.items.add(f); const i = document.querySelector('[data-test={input}]'); i.files = d.files; i.dispatchEvent(new Event('change'))"
    );
    b.eval(&script).await.map(drop)
}

#[tokio::test]
async fn the_order_is_priced_the_truck_is_counted_and_an_unknown_pair_is_answered() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/4").await?;
    b.click("[data-test=to-truck]").await?;
    b.wait("[data-test=order]").await?;
    b.click("[data-line=\"Flat flashing membrane\"]").await?;
    b.until_text("[data-test=line-more]", "no nesting buys fewer than").await?;
    b.client.find(Locator::Css("[data-test=own-name]")).await?.send_keys("Grey membrane").await?;
    for (i, price) in ["28", "36.50", "52"].iter().enumerate() {
        let field = b.client.find(Locator::Css(&format!("[data-test=price-{i}]"))).await?;
        field.send_keys(price).await?;
    }
    b.client.find(Locator::Css("[data-test=stock-0]")).await?.send_keys("1").await?;
    b.click("[data-test=save-kit]").await?;
    b.until_text("[data-line=\"Flat flashing membrane\"]", "Grey membrane").await?;
    b.until_text("[data-test=order]", "Sum of what has a price").await?;
    b.until_text("[data-test=line-more]", "on the truck").await?;
    // A price that is none is refused by name.
    b.client.find(Locator::Css("[data-test=price-0]")).await?.send_keys("x").await?;
    b.click("[data-test=save-kit]").await?;
    b.until_text(".p-message", "expected an amount such as 38.50").await?;
    // A number that is none is told where it is typed, and nothing is saved.
    b.fill("[data-test=stock-0]", "two").await?;
    b.until_text("[data-test=not-a-number]", "\"two\" is not a number").await?;
    tab(&b, "What touches").await?;
    b.until_text("[data-test=pairs]", "nobody has answered for").await?;
    let pair = "[data-pair=\"Sealant, movement class 25 or more|Flashing tape\"]";
    b.click(&format!("{pair} .head")).await?;
    b.client.find(Locator::Css("[data-test=pair-source]")).await?.send_keys("letter of 3 March").await?;
    b.click("[data-test=record-pair]").await?;
    b.until_text(pair, "Recorded: letter of 3 March").await?;
    tab(&b, "Reckon").await?;
    b.click("[data-mix=coverage] button").await?;
    b.until_text("[data-mix=coverage] .answer", "7.15 gal: 2 pail(s)").await?;
    b.fill("[name=coverage-mil]", "twelve").await?;
    b.until_text("[data-mix=coverage] .answer", "\"twelve\" is not a number").await?;
    b.end().await
}

#[tokio::test]
async fn the_bench_shows_the_next_cut_on_its_roll_and_a_tick_survives_a_reload() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.client.goto(&format!("{}/jobs/2/cut-list", kame.url)).await?;
    b.until_text("[data-test=next-cut]", "back dam").await?;
    b.wait("[data-bar-piece=\"W1/head-flashing\"]").await?;
    b.eval("document.getElementById('W1/dam')?.click() ?? document.getElementById('W1/back-dam').click()").await?;
    b.until_text("[data-test=next-cut]", "bevelled sill board").await?;
    b.client.refresh().await?;
    b.until_text("[data-test=next-cut]", "bevelled sill board").await?;
    // Spoiled, it is cut once more from the same roll.
    b.click("[data-spoil=\"W1/head-flashing\"]").await?;
    b.wait("[data-bar-piece=\"W1/head-flashing~1\"]").await?;
    b.until_text("[data-test=cut-list]", "2 of 13 cut").await?;
    // Copying what is marked is the browser's own, and no way out.
    b.press("\u{e009}c\u{e000}").await?;
    b.until_text("[data-test=cut-list]", "2 of 13 cut").await?;
    b.press("c").await?;
    b.wait("[data-test=verdict]").await?;
    b.end().await
}

#[tokio::test]
async fn two_people_at_one_bench_see_each_other_s_ticks() -> Result<()> {
    let kame = Kame::start(true).await?;
    let (one, other) = (open(&kame, "/jobs/2/cut-list").await?, open(&kame, "/jobs/2/cut-list").await?);
    one.until_text("[data-test=cut-list]", "0 of 12 cut").await?;
    other.until_text("[data-test=cut-list]", "0 of 12 cut").await?;
    one.eval("document.getElementById('W1/pan').click()").await?;
    other.until_text("[data-test=cut-list]", "1 of 12 cut").await?;
    // The one who looks at an older state is not sent away.
    other.eval("document.getElementById('W1/head-flashing').click()").await?;
    one.until_text("[data-test=cut-list]", "2 of 12 cut").await?;
    one.end().await?;
    other.end().await
}

#[tokio::test]
async fn the_kit_is_found_changed_and_taken_from_a_price_list() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/4/truck").await?;
    tab(&b, "Kit").await?;
    b.fill("[data-test=find-product]", "liquid").await?;
    b.until("return document.querySelectorAll('[data-product]').length === 2").await?;
    b.click("[data-product=\"Liquid flashing\"] .head").await?;
    b.click("[data-test=attributes]").await?;
    b.fill("[data-test=attribute-wet_mil]", "40-20").await?;
    b.click("[data-test=save-kit]").await?;
    b.until_text(".p-message", "two numbers such as 12-25").await?;
    b.fill("[data-test=attribute-wet_mil]", "25-45").await?;
    b.click("[data-test=save-kit]").await?;
    b.until_text("[data-product=\"Liquid flashing\"]", "yours").await?;
    give(&b, "kit-file", "prices.csv", "product,width,length,price\nJoint tape,4,900,chalk\n").await?;
    b.until_text("[data-test=kit-problem]", "found the price \"chalk\"").await?;
    give(&b, "kit-file", "prices.csv", "product,width,length,price\nJoint tape,4,900,31.50\n").await?;
    b.until("return !document.querySelector('[data-test=kit-problem]')").await?;
    tab(&b, "Order").await?;
    b.until_text("[data-line=\"Joint tape\"]", "63.00").await?;
    b.end().await
}

#[tokio::test]
async fn a_second_tape_is_entered_and_used_at_one_window() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2/truck").await?;
    tab(&b, "Kit").await?;
    b.click("[data-product=\"Flashing tape\"] .head").await?;
    b.fill("[data-test=another-name]", "Cold tape").await?;
    b.click("[data-test=another]").await?;
    b.until_text("[data-product=\"Cold tape\"]", "beside Flashing tape").await?;
    b.client.goto(&format!("{}/jobs/2", kame.url)).await?;
    b.wait("[data-test=panels]").await?;
    b.eval("[...document.querySelectorAll('[data-test=panels] button')].at(-1).click()").await?;
    b.wait("[data-test^=products-W]").await?;
    b.choose("[data-test^=products-W] [role=combobox]", "Cold tape").await?;
    b.until_text("[data-test^=products-W] [role=combobox]", "Cold tape").await?;
    b.client.goto(&format!("{}/jobs/2/truck", kame.url)).await?;
    b.wait("[data-line=\"Cold tape\"]").await?;
    // What is used somewhere cannot be taken out.
    tab(&b, "Kit").await?;
    b.click("[data-product=\"Cold tape\"] .head").await?;
    b.eval("[...document.querySelectorAll('[data-product=\"Cold tape\"] button')].find(x => x.textContent.includes('Take it out')).click()")
        .await?;
    b.until_text(".p-message", "and is not in the kit").await?;
    b.end().await
}

#[tokio::test]
async fn figures_are_kept_changed_compared_and_brought_back() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2/truck").await?;
    tab(&b, "Figures").await?;
    b.wait("[data-test=profile]").await?;
    b.fill("[data-test=keep-name]", "spring").await?;
    b.click("[data-test=keep-profile]").await?;
    b.wait("[data-kept=spring]").await?;
    give(&b, "profile-file", "figures.csv", "figure,value\nlap_vertical,9\ncrew,3\n").await?;
    b.wait("[data-figure=lap_vertical] .other").await?;
    b.wait("[data-figure=crew] .other").await?;
    tab(&b, "Days").await?;
    b.until_text("[data-test=days]", "3 people").await?;
    tab(&b, "Figures").await?;
    give(&b, "profile-file", "figures.csv", "figure,value\nlap_vertical,1\n").await?;
    b.until_text("[data-test=profile-problem]", "has to be between 2 and 36").await?;
    b.eval("document.querySelector('[data-kept=spring] button').click()").await?;
    b.until("return !document.querySelector('[data-figure=lap_vertical]')").await?;
    give(&b, "profile-file", "figures.csv", "figure,value\ncrew,3\n").await?;
    b.wait("[data-figure=crew] .other").await?;
    b.click("[data-test=restore-shipped]").await?;
    b.until("return !document.querySelector('[data-figure=crew]')").await?;
    b.end().await
}

#[tokio::test]
async fn days_say_what_to_load_and_what_runs_out_and_sums_are_by_what_is_asked() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/4/truck").await?;
    tab(&b, "Days").await?;
    b.until_text("[data-test=days]", "Loose barrier sheet").await?;
    b.until("return !document.querySelector('[data-test=shortage]')").await?;
    tab(&b, "Order").await?;
    b.click("[data-line=\"Sealant, movement class 25 or more\"]").await?;
    b.fill("[data-test=stock-1]", "2").await?;
    b.click("[data-test=save-kit]").await?;
    b.until_text("[data-line=\"Sealant, movement class 25 or more\"]", "2 on the truck").await?;
    tab(&b, "Days").await?;
    b.until_text("[data-test=shortage]", "runs out on ").await?;
    tab(&b, "Quantities").await?;
    b.wait("[data-group=W1]").await?;
    b.choose("[data-test=sum-by] [role=combobox]", "By trade").await?;
    b.wait("[data-group=window]").await?;
    b.until_text("[data-test=areas]", "ft²").await?;
    b.end().await
}

#[tokio::test]
async fn what_has_to_cure_stands_on_the_card_and_money_beside_the_schools() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    b.wait("[data-test=verdict]").await?;
    b.eval("[...document.querySelectorAll('[data-test=panels] button')].at(-1).click()").await?;
    b.answer("#q--barrier", "Fluid").await?;
    b.wait("[data-piece=coat]").await?;
    b.eval("document.querySelector('[data-step=\"W1/jambs\"] .name').click()").await?;
    b.eval("document.querySelector('[data-test=panels] button').click()").await?;
    b.until_text("[data-test=cure-wait]", "Not before 24 h after").await?;
    b.client.goto(&format!("{}/jobs/4/compare", kame.url)).await?;
    b.until_text("[data-test=comparison]", "days of work").await?;
    b.until_text("[data-test=comparison]", "no rate: give one under Figures").await?;
    b.end().await
}
