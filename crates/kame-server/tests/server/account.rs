//! One's own account where people sign in: the second factor, the password said once more, what changed, and everything that is kept.

use crate::api::Server;
use crate::people::{Firm, PASSWORD, Page, page_of};
use kame_server::Serving;
use kame_store::{Role, Store};
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use std::time::{SystemTime, UNIX_EPOCH};
use totp_rs::{Builder, Secret};

/// What a telephone with that secret shows in so many seconds.
fn figures(secret: &str, in_s: u64) -> String {
    let secret = Secret::try_from_base32(secret).expect("base 32");
    let now = SystemTime::now().duration_since(UNIX_EPOCH).expect("after 1970").as_secs();
    Builder::new().with_secret(secret).build().expect("a telephone").generate(now + in_s).to_string()
}

/// Sets a second factor: the page that goes on, the secret, and the spare codes.
async fn with_second(f: &Firm, page: &Page) -> (Page, String, Vec<String>) {
    let (status, offered) = f.post(page, "/api/second-factor", json!({"password": PASSWORD})).await;
    assert_eq!(status, StatusCode::OK, "{offered}");
    let secret = offered["secret"].as_str().expect("a secret").to_owned();
    let address = offered["address"].as_str().expect("an address");
    assert!(address.starts_with("otpauth://totp/Kame:") && address.contains(&secret), "{address}");
    assert!(offered["picture"].as_str().is_some_and(|p| p.starts_with("<svg")), "{offered}");
    let set = json!({"code": figures(&secret, 0)});
    let r = f.ask(page, Method::POST, "/api/second-factor/set", Some(set)).await;
    assert_eq!(r.status(), StatusCode::OK);
    let cookie = r.headers()["set-cookie"].to_str().expect("text").split(';').next().expect("a cookie").to_owned();
    let said: Value = r.json().await.expect("JSON");
    let token = said["me"]["token"].as_str().expect("a token").to_owned();
    assert_eq!(said["me"]["person"]["second_factor"], true);
    let spare = said["spare"].as_array().expect("codes").iter().map(|c| c.as_str().expect("text").to_owned());
    (Page { cookie, token }, secret, spare.collect())
}

fn kind(said: &Value) -> &str {
    said["type"].as_str().unwrap_or_default()
}

#[tokio::test]
async fn a_second_factor_is_set_by_the_password_and_what_the_telephone_shows() {
    let f = Firm::start().await;
    let ada = f.join("Ada", Role::Owner, None).await;
    let (status, said) = f.post(&ada, "/api/second-factor", json!({"password": "not the one at all"})).await;
    assert_eq!((status, kind(&said)), (StatusCode::FORBIDDEN, "wrong-password"));
    let (status, said) = f.post(&ada, "/api/second-factor/set", json!({"code": "123456"})).await;
    assert_eq!((status, kind(&said)), (StatusCode::UNPROCESSABLE_ENTITY, "refused"), "none is offered");
    let (_, offered) = f.post(&ada, "/api/second-factor", json!({"password": PASSWORD})).await;
    let secret = offered["secret"].as_str().expect("a secret");
    // An hour from now it shows something else, by one chance in some hundred thousand the same.
    let (status, said) = f.post(&ada, "/api/second-factor/set", json!({"code": figures(secret, 3600)})).await;
    assert_eq!((status, kind(&said)), (StatusCode::FORBIDDEN, "wrong-code"));
    let (now, _, spare) = with_second(&f, &ada).await;
    assert_eq!(f.get(&ada, "/api/jobs").await.0, StatusCode::UNAUTHORIZED, "other sessions have ended");
    assert_eq!((f.get(&now, "/api/jobs").await.0, spare.len()), (StatusCode::OK, 10));
}

#[tokio::test]
async fn a_second_factor_is_asked_at_the_door_and_what_it_shows_opens_once() {
    let f = Firm::start().await;
    let ada = f.join("Ada", Role::Owner, None).await;
    let (now, secret, spare) = with_second(&f, &ada).await;
    let door = async |code: &str| {
        let ask = json!({"login": "Ada", "password": PASSWORD, "code": code});
        let r = f.ask(&Page::default(), Method::POST, "/api/sign-in", Some(ask)).await;
        let status = r.status();
        (status, r.json::<Value>().await.expect("JSON")["type"].as_str().unwrap_or_default().to_owned())
    };
    let refused = |why: &str| (StatusCode::FORBIDDEN, why.to_owned());
    assert_eq!(door("").await, refused("code-asked"));
    assert_eq!(door(&figures(&secret, 3600)).await, refused("wrong-code"));
    // What was said when it was set is used; the next figures, half a minute early, are good once.
    assert_eq!(door(&figures(&secret, 0)).await, refused("wrong-code"));
    let next = figures(&secret, 30);
    assert_eq!((door(&next).await.0, door(&next).await), (StatusCode::OK, refused("wrong-code")));
    let spaced = format!("{}-{} ", &spare[3][..6], spare[3][6..].to_uppercase());
    assert_eq!((door(&spaced).await.0, door(&spare[3]).await), (StatusCode::OK, refused("wrong-code")));
    // In the file a spare code stands by its hash alone.
    let file = rusqlite::Connection::open(f.s.data.path().join("kame.db")).expect("opens");
    let kept: Vec<String> = file
        .prepare("SELECT hash FROM spare_code")
        .and_then(|mut q| q.query_map([], |r| r.get(0))?.collect())
        .expect("read");
    assert_eq!(f.get(&now, "/api/me").await.1["spare_codes"], 9);
    assert!(kept.len() == 9 && kept.iter().all(|k| k.len() == 64 && !spare.contains(k)), "{kept:?}");
    let (status, said) = f.post(&now, "/api/second-factor/remove", json!({"password": PASSWORD})).await;
    assert_eq!((status, kind(&said)), (StatusCode::FORBIDDEN, "code-asked"));
    let remove = json!({"password": PASSWORD, "code": spare[4]});
    assert_eq!(f.post(&now, "/api/second-factor/remove", remove).await.0, StatusCode::NO_CONTENT);
    let me = f.get(&now, "/api/me").await.1;
    assert_eq!((&me["person"]["second_factor"], &me["spare_codes"]), (&json!(false), &Value::Null));
}

#[tokio::test]
async fn an_owner_takes_the_second_factor_of_who_lost_it_away_and_nobody_else_does() {
    let f = Firm::start().await;
    let ada = f.join("Ada", Role::Owner, None).await;
    let bo = f.join("Bo", Role::Builder, None).await;
    let (bo, ..) = with_second(&f, &bo).await;
    let (_, people) = f.get(&ada, "/api/people").await;
    let of = |name: &str| people.as_array().expect("people").iter().find(|p| p["name"] == name).expect("there").clone();
    let address = format!("/api/people/{}/second-factor/remove", of("Bo")["id"]);
    assert_eq!((of("Bo")["second_factor"].clone(), of("Ada")["second_factor"].clone()), (json!(true), json!(false)));
    assert_eq!(f.post(&bo, &address, json!({})).await.0, StatusCode::FORBIDDEN);
    assert_eq!(f.sign_in("Bo", PASSWORD).await.status(), StatusCode::FORBIDDEN);
    assert_eq!(f.post(&ada, &address, json!({})).await.0, StatusCode::NO_CONTENT);
    assert_eq!(f.sign_in("Bo", PASSWORD).await.status(), StatusCode::OK);
    let told = f.get(&bo, "/api/me").await.1["changed"].clone();
    assert!(told.as_array().expect("lines").iter().any(|l| l["who"] == "Ada" && l["about"] == "Bo"), "{told}");
}

#[tokio::test]
async fn what_others_may_do_is_changed_by_who_said_the_password_lately() {
    let f = Firm::start().await;
    let ada = f.join("Ada", Role::Owner, None).await;
    f.join("Bo", Role::Crew, None).await;
    let bo = f.store.people().expect("read").into_iter().find(|p| p.name == "Bo").expect("Bo").id;
    let builder = json!({"role": "builder"});
    let address = format!("/api/people/{bo}/role");
    assert_eq!(f.post(&ada, &address, builder.clone()).await.0, StatusCode::NO_CONTENT, "who has just come in");
    let age = "UPDATE session SET data = json_set(data, '$.kept.proved', CAST(strftime('%s') AS INTEGER) - 16 * 60)";
    let file = rusqlite::Connection::open(f.s.data.path().join("kame.db")).expect("opens");
    file.execute_batch(age).expect("aged");
    let changes = [
        (address.clone(), builder.clone()),
        (format!("/api/people/{bo}/end"), json!({})),
        (format!("/api/people/{bo}/second-factor/remove"), json!({})),
        ("/api/invitations".to_owned(), json!({"role": "crew"})),
    ];
    for (path, body) in &changes {
        let (status, said) = f.post(&ada, path, body.clone()).await;
        assert_eq!((status, kind(&said)), (StatusCode::FORBIDDEN, "say-password"), "{path}");
    }
    assert_eq!(f.get(&ada, "/api/people").await.0, StatusCode::OK, "reading asks for nothing more");
    // Nor is a session that begins anew one in which it was said.
    let ada = page_of(f.ask(&ada, Method::POST, "/api/sign-out-everywhere", None).await).await;
    let (status, said) = f.post(&ada, &address, builder.clone()).await;
    assert_eq!((status, kind(&said)), (StatusCode::FORBIDDEN, "say-password"));
    let (status, said) = f.post(&ada, "/api/prove", json!({"password": "not the one at all"})).await;
    assert_eq!((status, kind(&said)), (StatusCode::FORBIDDEN, "wrong-password"));
    assert_eq!(f.post(&ada, &address, builder.clone()).await.0, StatusCode::FORBIDDEN);
    assert_eq!(f.post(&ada, "/api/prove", json!({"password": PASSWORD})).await.0, StatusCode::NO_CONTENT);
    assert_eq!(f.post(&ada, &address, builder).await.0, StatusCode::NO_CONTENT);
    assert!(f.store.people().expect("read").iter().all(|p| p.ended.is_none()));
}

#[tokio::test]
async fn where_owners_come_by_two_one_without_a_second_factor_says_nothing_about_others() {
    let s = Server::serving(Serving { sign_in: true, owners_by_two: true, ..Serving::default() }).await;
    let store = Store::open(&s.data.path().join("kame.db")).expect("opens");
    let f = Firm { s, store };
    let ada = f.join("Ada", Role::Owner, None).await;
    for path in ["/api/people", "/api/audit", "/api/invitations"] {
        let (status, said) = f.get(&ada, path).await;
        assert_eq!(status, StatusCode::FORBIDDEN, "{path}");
        assert!(said["detail"].as_str().is_some_and(|d| d.contains("second factor")), "{said}");
    }
    assert_eq!(f.get(&ada, "/api/jobs").await.0, StatusCode::OK, "jobs are worked on all the same");
    let (ada, ..) = with_second(&f, &ada).await;
    assert_eq!(f.get(&ada, "/api/people").await.0, StatusCode::OK);
}

#[tokio::test]
async fn changes_of_an_account_are_told_until_they_were_seen_and_all_that_is_kept_can_be_had() {
    let f = Firm::start().await;
    let ada = f.join("Ada", Role::Owner, None).await;
    let bo = f.join("Bo", Role::Crew, None).await;
    f.join("Bonnie", Role::Crew, None).await;
    let people = f.store.people().expect("read");
    let id = |name: &str| people.iter().find(|p| p.name == name).expect("there").id;
    let changed = async |page: &Page| {
        let (_, me) = f.get(page, "/api/me").await;
        let lines = me["changed"].as_array().expect("lines").clone();
        (lines.iter().map(|l| l["what"].as_str().expect("text").to_owned()).collect::<Vec<_>>(), lines)
    };
    assert!(changed(&bo).await.0.is_empty(), "nobody is told of coming in");
    f.post(&ada, &format!("/api/people/{}/role", id("Bo")), json!({"role": "builder"})).await;
    // Another whose name begins alike is somebody else.
    f.post(&ada, &format!("/api/people/{}/role", id("Bonnie")), json!({"role": "viewer"})).await;
    assert_eq!(f.sign_in("bo", "not the one at all").await.status(), StatusCode::FORBIDDEN);
    let (what, lines) = changed(&bo).await;
    assert_eq!(what, ["changed a role", "did not sign in"]);
    assert!(changed(&ada).await.0.is_empty(), "what Ada did to others is no change of hers");
    let seen = json!({"line": lines[0]["id"]});
    assert_eq!(f.post(&bo, "/api/me/saw", seen).await.0, StatusCode::NO_CONTENT);
    assert_eq!(changed(&bo).await.0, ["did not sign in"]);
    // More than there is cannot be seen: what comes later is told all the same.
    assert_eq!(f.post(&bo, "/api/me/saw", json!({"line": i64::MAX})).await.0, StatusCode::NO_CONTENT);
    let change = json!({"old": PASSWORD, "new": "gull lantern rope tide"});
    let bo = page_of(f.ask(&bo, Method::POST, "/api/password", Some(change)).await).await;
    assert_eq!(changed(&bo).await.0, ["changed a password"]);
    let r = f.ask(&bo, Method::GET, "/api/me/all", None).await;
    assert!(r.headers()["content-disposition"].to_str().expect("text").contains("kame-account.json"));
    let all: Value = r.json().await.expect("JSON");
    assert_eq!((&all["person"]["login"], all["entries"].as_i64()), (&json!("Bo"), Some(0)));
    let of_log = |key: &str| -> Vec<&str> {
        all["log"].as_array().expect("lines").iter().map(|l| l[key].as_str().expect("text")).collect()
    };
    assert!(of_log("what").contains(&"joined") && of_log("what").contains(&"changed a role"), "{all}");
    assert!(!of_log("about").iter().any(|a| a.starts_with("Bonnie")), "{all}");
    let text = all.to_string();
    assert!(!text.contains("argon2") && !text.contains(PASSWORD), "{text}");
}

#[tokio::test]
async fn with_what_somebody_signed_in_goes_when_they_leave() {
    let f = Firm::start().await;
    let ada = f.join("Ada", Role::Owner, None).await;
    let bo = f.join("Bo", Role::Crew, None).await;
    with_second(&f, &bo).await;
    let bo = f.store.people().expect("read").into_iter().find(|p| p.name == "Bo").expect("Bo").id;
    let file = rusqlite::Connection::open(f.s.data.path().join("kame.db")).expect("opens");
    let kept = || -> (String, Option<String>, i64) {
        let of =
            "SELECT password, second, (SELECT count(*) FROM spare_code WHERE person_id = id) FROM person WHERE id = ?1";
        file.query_row(of, [bo], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?))).expect("read")
    };
    let (password, second, spare) = kept();
    assert!(password.starts_with("$argon2id$") && second.is_some() && spare == 10);
    assert_eq!(f.post(&ada, &format!("/api/people/{bo}/end"), json!({})).await.0, StatusCode::NO_CONTENT);
    assert_eq!(kept(), (String::new(), None, 0));
}
