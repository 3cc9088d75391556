//! Signing in, inviting, a link, and what was before, in a real browser.

use crate::open;
use anyhow::Result;
use kame_e2e::{Browser, Kame};

async fn come(b: &Browser, code: &str, name: &str) -> Result<()> {
    b.wait("[data-test=sign-in]").await?;
    b.fill("[data-test=code]", code).await?;
    b.fill("[data-test=name]", name).await?;
    b.fill("[data-test=login]", &name.to_lowercase()).await?;
    // Enter sends it, as everywhere.
    b.fill("[data-test=password]", "tide rope lantern gull").await
}

#[tokio::test]
async fn the_first_comes_in_invites_another_who_writes_down_under_their_own_name() -> Result<()> {
    let (kame, code) = Kame::signing_in().await?;
    // Whoever has not signed in comes to the door, and from there to where they wanted to be.
    let b = Browser::start(1280, 800).await?;
    b.client.goto(&format!("{}/jobs/2", kame.url)).await?;
    b.wait("[data-test=sign-in]").await?;
    b.is_for_everybody("the door").await?;
    come(&b, &code, "Ada").await?;
    b.wait("[data-test=verdict]").await?;
    b.click(".home").await?;
    b.click("[data-test=to-people]").await?;
    b.wait("[data-person=Ada]").await?;
    b.click("[data-test=invite]").await?;
    b.wait("[data-test=invited]").await?;
    b.is_for_everybody("people").await?;
    let address = b.eval("return document.querySelector('[data-test=invited] code').textContent").await?;
    // An edit is under the name of who made it.
    b.client.goto(&format!("{}/jobs/2", kame.url)).await?;
    b.wait("[data-test=verdict]").await?;
    let offered = "[data-handle], [data-test=drag], [data-test=toggle-step], [data-test=mistake], [data-test=add], [data-test=quick]";
    b.until(&format!("return document.querySelectorAll('{offered}').length > 5")).await?;
    // Crews, deliveries and what was agreed on are for who may change the job.
    let calendar = "[data-test=site-form-open], [data-test=agree]";
    b.client.goto(&format!("{}/jobs/2/truck/days", kame.url)).await?;
    b.until(&format!("return document.querySelectorAll('{calendar}').length === 2")).await?;
    b.click("[data-test=to-files]").await?;
    b.wait("[data-test=history]").await?;
    b.click("[data-test=share]").await?;
    b.wait("[data-test=shared]").await?;
    let link = b.eval("return document.querySelector('[data-test=shared] code').textContent").await?;
    // The crew: comes by the address, and is who they are on the wall.
    let other = Browser::start(390, 844).await?;
    other.client.goto(address.as_str().unwrap_or_default()).await?;
    other.wait("[data-test=sign-in]").await?;
    other.fill("[data-test=name]", "Cy").await?;
    other.fill("[data-test=login]", "cy").await?;
    other.fill("[data-test=password]", "tide rope lantern gull").await?;
    other.wait("[data-test=job]").await?;
    other.client.goto(&format!("{}/jobs/2/site/W1", kame.url)).await?;
    other.until_text("[data-test=site]", "Cy").await?;
    other.client.goto(&format!("{}/jobs/2/truck/days", kame.url)).await?;
    other.wait("[data-test=agreed]").await?;
    other.until(&format!("return document.querySelectorAll('{calendar}').length === 0")).await?;
    other.end().await?;
    // The link: one job to look at, without signing in.
    let guest = Browser::start(1280, 800).await?;
    guest.client.goto(link.as_str().unwrap_or_default()).await?;
    guest.wait("[data-test=verdict]").await?;
    guest.until("return document.querySelectorAll('nav.rooms a').length === 2").await?;
    // What changes the wall is not offered to who may only look; figures and answers are there to be read.
    guest.wait("[data-test=card]").await?;
    guest.until(&format!("return document.querySelectorAll('{offered}').length === 0")).await?;
    guest
        .eval("[...document.querySelectorAll('[data-test=panels] button')].find((x) => x.textContent.trim() === 'Sizes').click()")
        .await?;
    guest.until("const width = document.querySelector('[data-test=width]'); return width.value !== '' && width.matches(':disabled')").await?;
    guest.until(&format!("return document.querySelectorAll('{offered}').length === 0")).await?;
    guest.is_for_everybody("the sizes, to look at").await?;
    guest.client.goto(&format!("{}/jobs/3", kame.url)).await?;
    guest.until("return location.pathname === '/jobs/2'").await?;
    guest.end().await?;
    b.client.goto(&format!("{}/people", kame.url)).await?;
    b.wait("[data-person=Cy]").await?;
    b.click("[data-test=sign-out]").await?;
    b.wait("[data-test=sign-in]").await?;
    b.client.goto(&format!("{}/jobs/2", kame.url)).await?;
    b.wait("[data-test=sign-in]").await?;
    b.end().await
}

/// What a telephone with that secret shows in so many seconds.
fn figures(secret: &str, in_s: u64) -> Result<String> {
    let secret = totp_rs::Secret::try_from_base32(secret).map_err(|e| anyhow::anyhow!("{e}"))?;
    let telephone = totp_rs::Builder::new().with_secret(secret).build().map_err(|e| anyhow::anyhow!("{e}"))?;
    let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH)?.as_secs();
    Ok(telephone.generate(now + in_s).to_string())
}

#[tokio::test]
async fn a_second_factor_is_asked_at_the_door_and_the_password_again_after_a_while() -> Result<()> {
    const PASSWORD: &str = "tide rope lantern gull";
    let (kame, code) = Kame::signing_in().await?;
    let b = Browser::start(1280, 800).await?;
    b.client.goto(&format!("{}/people", kame.url)).await?;
    come(&b, &code, "Ada").await?;
    b.click("[data-test=second-start]").await?;
    b.fill("[data-test=again]", PASSWORD).await?;
    b.wait("[data-test=second-secret]").await?;
    b.until("const p = document.querySelector('.offer img'); return p.complete && p.naturalWidth > 0").await?;
    b.is_for_everybody("a second factor that is offered").await?;
    let text = async |css: &str| -> Result<String> {
        let said = b.eval(&format!("return document.querySelector('{css}').textContent")).await?;
        Ok(said.as_str().unwrap_or_default().to_owned())
    };
    let secret = text("[data-test=second-secret]").await?.replace(' ', "");
    b.fill("[data-test=second-figures]", &figures(&secret, 0)?).await?;
    b.wait("[data-test=spare-codes]").await?;
    let spare = text("[data-test=spare-codes] li").await?;
    b.until_text("[data-test=spare-left]", "10 spare codes").await?;
    b.is_for_everybody("spare codes").await?;
    b.click("[data-test=sign-out]").await?;
    b.wait("[data-test=sign-in]").await?;
    // What is typed in gloves can be looked at.
    b.click("[data-test=show-password]").await?;
    b.until("return document.querySelector('[data-test=password]').type === 'text'").await?;
    b.fill("[data-test=login]", "ada").await?;
    b.fill("[data-test=password]", PASSWORD).await?;
    b.wait("[data-test=sign-in-figures]").await?;
    b.is_for_everybody("the door that asks for figures").await?;
    // Its own figures are used: those of half a minute on are good too.
    b.fill("[data-test=sign-in-figures]", &figures(&secret, 30)?).await?;
    b.wait("[data-test=job]").await?;
    // The account says what changed with it, until that was seen.
    b.until_text("[data-test=account-news]", "second factor was set").await?;
    b.click("[data-test=account-saw]").await?;
    b.until("return !document.querySelector('[data-test=account-news]')").await?;
    let file = rusqlite::Connection::open(kame.folder().join("kame.db"))?;
    file.execute_batch("UPDATE session SET data = json_set(data, '$.kept.proved', 0)")?;
    b.client.goto(&format!("{}/people", kame.url)).await?;
    b.click("[data-test=invite]").await?;
    b.wait("[data-test=say-again]").await?;
    b.is_for_everybody("the password once more").await?;
    b.fill("[data-test=again]", PASSWORD).await?;
    b.fill("#again-code", spare.trim()).await?;
    b.wait("[data-test=invited]").await?;
    b.until("return !document.querySelector('[data-test=say-again]')").await?;
    b.end().await
}

#[tokio::test]
async fn a_job_that_does_not_read_is_taken_as_it_was_before_and_a_deleted_one_comes_back() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/jobs/2").await?;
    let edit = serde_json::json!({"edit": "set_opening", "id": "W1", "width": "44"});
    let url = format!("{}/api/jobs/2/edits", kame.url);
    reqwest::Client::new().post(url).header("If-Match", "\"1\"").json(&edit).send().await?.error_for_status()?;
    let file = rusqlite::Connection::open(kame.folder().join("kame.db"))?;
    file.execute_batch("UPDATE history SET job = '{' WHERE job_id = 2 AND position = 1")?;
    b.client.goto(&format!("{}/jobs/2", kame.url)).await?;
    b.until_text("[role=alert]", "does not open as it stands").await?;
    b.is_for_everybody("a job that does not read").await?;
    b.click("[data-position=\"0\"] [data-test=go-back]").await?;
    b.wait("[data-test=verdict]").await?;
    b.client.goto(&kame.url).await?;
    b.wait("[data-test=job]").await?;
    b.eval(
        "[...document.querySelectorAll('[data-test=job] button')].find(x => x.textContent.trim() === 'Delete').click()",
    )
    .await?;
    b.wait("[data-test=deleted]").await?;
    b.eval("document.querySelector('[data-test=deleted]').open = true; document.querySelector('[data-test=deleted] button').click()").await?;
    b.until("return !document.querySelector('[data-test=deleted]')").await?;
    b.end().await
}

#[tokio::test]
async fn a_building_model_is_seen_from_above_and_taken() -> Result<()> {
    let kame = Kame::start(true).await?;
    let b = open(&kame, "/").await?;
    b.click("[data-test=to-model]").await?;
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../crates/kame-formats/tests/formats/models/boat-shed-ifc4.ifc");
    let file = std::fs::canonicalize(file)?;
    b.wait("[data-test=model] input[type=file]").await?.send_keys(&file.to_string_lossy()).await?;
    b.until_text("[data-test=left-out]", "1 slab").await?;
    b.is_for_everybody("a model").await?;
    b.click("[data-test=take-model]").await?;
    b.wait("[data-test=verdict]").await?;
    b.until_text(".name h1", "Heron Spit boat shed").await?;
    // A window is made narrower here; the model of the same building says so, and is taken.
    let id = b.eval("return location.pathname.split('/')[2]").await?;
    let path = format!("{}/jobs/{}", kame.url, id.as_str().unwrap_or_default());
    let narrower = serde_json::json!({"edit": "set_opening", "id": "W1", "width": "30"});
    let url = format!("{}/api/jobs/{}/edits", kame.url, id.as_str().unwrap_or_default());
    reqwest::Client::new().post(url).header("If-Match", "\"1\"").json(&narrower).send().await?.error_for_status()?;
    b.client.goto(&format!("{path}/files")).await?;
    b.click("[data-test=to-newer-model]").await?;
    b.wait("[data-test=newer-model] input[type=file]").await?.send_keys(&file.to_string_lossy()).await?;
    b.until_text("[data-test=newer-changes]", "wide instead of 30").await?;
    b.is_for_everybody("a newer model").await?;
    b.click("[data-test=take-newer]").await?;
    b.wait("[data-test=verdict]").await?;
    b.client.goto(&format!("{path}/model")).await?;
    b.until_text(".name h1", "Heron Spit boat shed").await?;
    b.wait("[data-test=newer-model] input[type=file]").await?.send_keys(&file.to_string_lossy()).await?;
    b.until_text("[data-test=newer-same]", "Nothing is otherwise").await?;
    // What is planned is saved into the model; what goes wrong there would be told.
    b.click("[data-test=write-back]").await?;
    b.until("return !document.querySelector('[data-test=write-back]').disabled && !document.querySelector('[data-test=newer-wrong]')").await?;
    b.end().await
}
