//! Who may do what where people sign in: by invitation, by role, by session and token, by link; and what nobody gets by guessing.

use crate::api::Server;
use kame_server::Serving;
use kame_store::{Role, Store};
use reqwest::{Method, Response, StatusCode};
use serde_json::{Value, json};

pub(crate) const PASSWORD: &str = "tide rope lantern gull";

/// A server where people sign in, with its store.
pub(crate) struct Firm {
    pub s: Server,
    pub store: Store,
}

/// Somebody's browser: its cookie and its page's token.
#[derive(Clone, Debug, Default)]
pub(crate) struct Page {
    pub cookie: String,
    pub token: String,
}

impl Firm {
    pub async fn start() -> Self {
        let s = Server::serving(Serving { sign_in: true, ..Serving::default() }).await;
        let store = Store::open(&s.data.path().join("kame.db")).expect("opens");
        Self { s, store }
    }

    pub async fn ask(&self, page: &Page, method: Method, path: &str, body: Option<Value>) -> Response {
        let mut request = self.s.http.request(method, format!("{}{path}", self.s.url));
        if !page.cookie.is_empty() {
            request = request.header("Cookie", &page.cookie);
        }
        if !page.token.is_empty() {
            request = request.header("X-Kame-Token", &page.token);
        }
        if let Some(body) = body {
            request = request.header("If-Match", "\"1\"").json(&body);
        }
        request.send().await.expect("an answer")
    }

    pub async fn get(&self, page: &Page, path: &str) -> (StatusCode, Value) {
        let r = self.ask(page, Method::GET, path, None).await;
        (r.status(), r.json().await.unwrap_or_default())
    }

    pub async fn post(&self, page: &Page, path: &str, body: Value) -> (StatusCode, Value) {
        let r = self.ask(page, Method::POST, path, Some(body)).await;
        (r.status(), r.json().await.unwrap_or_default())
    }

    pub async fn join(&self, name: &str, role: Role, job: Option<i64>) -> Page {
        let code = kame_server::secret();
        self.store.invite(&code, role, job, 1, "test").expect("invited");
        let join = json!({"code": code, "name": name, "login": name, "password": PASSWORD});
        page_of(self.ask(&Page::default(), Method::POST, "/api/join", Some(join)).await).await
    }

    pub async fn sign_in(&self, login: &str, password: &str) -> Response {
        let ask = json!({"login": login, "password": password});
        self.ask(&Page::default(), Method::POST, "/api/sign-in", Some(ask)).await
    }
}

pub(crate) async fn page_of(r: Response) -> Page {
    assert_eq!(r.status(), StatusCode::OK);
    let set = r.headers()["set-cookie"].to_str().expect("text").to_owned();
    for flag in ["__Host-kame=", "HttpOnly", "SameSite=Lax", "Secure", "Path=/"] {
        assert!(set.contains(flag), "{flag}: {set}");
    }
    let cookie = set.split(';').next().expect("a cookie").to_owned();
    let me: Value = r.json().await.expect("JSON");
    Page { cookie, token: me["token"].as_str().expect("a token").to_owned() }
}

#[tokio::test]
async fn the_first_comes_by_the_code_that_is_good_once_and_signs_in_and_out() {
    let f = Firm::start().await;
    let nobody = Page::default();
    let (_, me) = f.get(&nobody, "/api/me").await;
    assert!(me["signs_in"] == true && me["first"] == true && me["person"].is_null() && me["token"].is_null(), "{me}");
    f.store.invite("the-code", Role::Owner, None, 1, "Kame").expect("invited");
    let join = |code: &str, password: &str| json!({"code": code, "name": "Ada", "login": "ada", "password": password});
    for (password, why) in [
        ("short", "expected 12"),
        ("aaaaaaaaaaaaaa", "guessed soon"),
        ("my ada password", "guessed soon"),
        // Among those that leaked most often, keys in a row, and a word with the usual letters changed.
        ("q1w2e3r4t5y6", "guessed soon"),
        ("zxcvbnmasdfgh", "guessed soon"),
        ("P@ssw0rd1234", "guessed soon"),
        ("December2026", "guessed soon"),
    ] {
        let (status, said) = f.post(&nobody, "/api/join", join("the-code", password)).await;
        assert_eq!(
            (status, &said["problems"][0]["path"]),
            (StatusCode::UNPROCESSABLE_ENTITY, &json!("$.password")),
            "{said}"
        );
        assert!(said["detail"].as_str().is_some_and(|d| d.contains(why)), "{said}");
    }
    let (status, said) = f.post(&nobody, "/api/join", join("other", PASSWORD)).await;
    assert!(
        status == StatusCode::UNPROCESSABLE_ENTITY
            && said["detail"].as_str().is_some_and(|d| d.contains("opens nothing"))
    );
    let ada = page_of(f.ask(&nobody, Method::POST, "/api/join", Some(join("THE-CODE ", PASSWORD))).await).await;
    let (status, _) = f.post(&nobody, "/api/join", join("the-code", PASSWORD)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "a code is good once");
    let (_, me) = f.get(&ada, "/api/me").await;
    assert_eq!(
        (&me["first"], &me["person"]["role"], &me["person"]["name"]),
        (&json!(false), &json!("owner"), &json!("Ada"))
    );
    assert_eq!(f.get(&ada, "/api/jobs").await.1.as_array().map(Vec::len), Some(crate::DEMO_JOBS));
    let out = f.ask(&ada, Method::POST, "/api/sign-out", None).await;
    assert_eq!(out.status(), StatusCode::NO_CONTENT);
    assert_eq!(f.get(&ada, "/api/jobs").await.0, StatusCode::UNAUTHORIZED);
    // The wrong password and a name that nobody has are told the same.
    let told = |r: Response| async { (r.status(), r.text().await.expect("text")) };
    let wrong = told(f.sign_in("ada", "another rope lantern").await).await;
    assert_eq!(wrong, told(f.sign_in("nobody", PASSWORD).await).await);
    assert_eq!(wrong.0, StatusCode::FORBIDDEN);
    let again = page_of(f.sign_in("ADA", PASSWORD).await).await;
    assert!(again.cookie != ada.cookie && again.token != ada.token);
    let log: Vec<String> =
        f.store.audit(None).expect("read").into_iter().map(|l| format!("{} {}", l.who, l.what)).collect();
    for line in ["Ada signed in", " did not sign in", "Ada signed out", "Ada joined", " a code that opens nothing"] {
        assert!(log.iter().any(|l| l == line), "{line}: {log:?}");
    }
}

/// Every operation of the description, with numbers that are there.
async fn operations(f: &Firm, page: &Page) -> Vec<(Method, String)> {
    let (_, api) = f.get(page, "/api/openapi.json").await;
    let paths = api["paths"].as_object().expect("paths").clone();
    let of = |(path, ops): (String, Value)| {
        let path = path
            .replace("/jobs/{id}", "/jobs/2")
            .replace("{id}", "77")
            .replace("{serial}", "x")
            .replace("{share}", "77");
        let path =
            path.replace("{hash}", &"a".repeat(64)).replace("{file}", "order.csv").replace("{name}", "record.csv");
        let methods: Vec<String> = ops.as_object().expect("operations").keys().cloned().collect();
        methods
            .into_iter()
            .filter_map(move |m| Some((m.to_uppercase().parse().ok()?, path.clone())))
            .collect::<Vec<_>>()
    };
    paths.into_iter().flat_map(of).collect()
}

#[tokio::test]
async fn nobody_gets_anything_without_signing_in_and_each_role_what_it_may() {
    let f = Firm::start().await;
    let builder = f.join("Bo", Role::Builder, None).await;
    let owner = f.join("Ada", Role::Owner, None).await;
    let crew = f.join("Cy", Role::Crew, None).await;
    let viewer = f.join("Di", Role::Viewer, None).await;
    let all = operations(&f, &owner).await;
    assert!(all.len() > 80, "{}", all.len());
    let open = ["/api/me", "/api/health", "/api/sign-in", "/api/join"];
    for (method, path) in all {
        let (nobody, is_open) = (Page::default(), open.contains(&path.as_str()));
        let body = (method != Method::GET).then(|| json!({}));
        let status = f.ask(&nobody, method.clone(), &path, body.clone()).await.status();
        assert_eq!(status == StatusCode::UNAUTHORIZED, !is_open, "{method} {path}: {status}");
        if is_open || method != Method::GET {
            continue;
        }
        // Reading changes nothing, so that each may try all of it.
        for (page, may) in
            [(&viewer, Role::Viewer), (&crew, Role::Crew), (&builder, Role::Builder), (&owner, Role::Owner)]
        {
            if path.ends_with("/changes") || path.ends_with("progress") {
                continue;
            }
            let status = f.ask(page, method.clone(), &path, None).await.status();
            let owners = ["/api/people", "/api/invitations", "/api/audit"].contains(&path.as_str());
            let builders = path.ends_with("/shares") || path == "/api/deleted-jobs";
            let needed = if owners {
                Role::Owner
            } else if builders {
                Role::Builder
            } else {
                Role::Viewer
            };
            assert_eq!(status == StatusCode::FORBIDDEN, may < needed, "{method} {path} as {may:?}: {status}");
        }
    }
    let edit = json!({"edit": "rename", "name": "other"});
    for (page, path, body, may) in [
        (&viewer, "/api/jobs/4/edits", &edit, false),
        (&crew, "/api/jobs/4/edits", &edit, false),
        (&builder, "/api/jobs/4/edits", &edit, true),
        (&viewer, "/api/jobs/4/ticks", &json!({"piece": "W1/pan", "cut": true}), false),
        (&crew, "/api/jobs/4/ticks", &json!({"piece": "W1/pan", "cut": true}), true),
        (&viewer, "/api/jobs/4/calendar", &json!({}), true),
        (&crew, "/api/jobs", &json!({"name": "new"}), false),
        (&builder, "/api/jobs", &json!({"name": "new"}), true),
        (&builder, "/api/invitations", &json!({"role": "viewer"}), false),
        (&owner, "/api/invitations", &json!({"role": "viewer"}), true),
    ] {
        let (status, said) = f.post(page, path, body.clone()).await;
        assert_eq!(status.is_success(), may, "{path}: {status} {said}");
        assert!(may || status == StatusCode::FORBIDDEN, "{path}: {status}");
    }
    let (_, history) = f.get(&viewer, "/api/jobs/4/history").await;
    assert_eq!((&history["past"][0]["who"], &history["past"][0]["now"]), (&json!("Bo"), &json!(true)));
}

#[tokio::test]
async fn a_page_says_its_own_token_and_only_over_tls() {
    let f = Firm::start().await;
    let (one, other) = (f.join("Ada", Role::Owner, None).await, f.join("Bo", Role::Builder, None).await);
    let new = json!({"name": "new"});
    for token in ["", "guessed", other.token.as_str()] {
        let page = Page { token: token.to_owned(), ..one.clone() };
        let (status, said) = f.post(&page, "/api/jobs", new.clone()).await;
        assert!(
            status == StatusCode::FORBIDDEN && said["detail"].as_str().is_some_and(|d| d.contains("load it again")),
            "{said}"
        );
    }
    assert_eq!(f.post(&one, "/api/jobs", new).await.0, StatusCode::CREATED);
    let from = |origin: &str, host: &str| {
        let ask = f.s.http.post(format!("{}/api/sign-in", f.s.url)).header("Origin", origin).header("Host", host);
        ask.json(&json!({"login": "Ada", "password": PASSWORD})).send()
    };
    let elsewhere = from("https://elsewhere.example", "localhost").await.expect("an answer");
    assert_eq!(elsewhere.status(), StatusCode::FORBIDDEN, "another site signs nobody in");
    let named =
        Server::serving(Serving { sign_in: true, hosts: vec!["kame.example".into()], ..Serving::default() }).await;
    let plain = named.http.post(format!("{}/api/sign-in", named.url));
    let plain = plain.header("Origin", "http://kame.example").header("Host", "kame.example");
    let said = plain.json(&json!({"login": "Ada", "password": PASSWORD})).send().await.expect("an answer");
    assert_eq!(said.status(), StatusCode::FORBIDDEN);
    assert!(said.text().await.expect("text").contains("over https alone"));
}

#[tokio::test]
async fn who_has_a_role_on_one_job_sees_that_job_alone() {
    let f = Firm::start().await;
    let owner = f.join("Ada", Role::Owner, None).await;
    let cy = f.join("Cy", Role::Crew, Some(4)).await;
    let (_, jobs) = f.get(&cy, "/api/jobs").await;
    assert_eq!((jobs.as_array().map(Vec::len), &jobs[0]["id"]), (Some(1), &json!(4)), "{jobs}");
    assert_eq!(f.get(&cy, "/api/jobs/4").await.0, StatusCode::OK);
    assert_eq!(f.get(&cy, "/api/jobs/2").await.0, StatusCode::FORBIDDEN);
    assert_eq!(f.get(&cy, "/api/deleted-jobs").await.0, StatusCode::FORBIDDEN);
    // What is found, and how the firm builds, is not more than that either.
    let (_, found) = f.get(&cy, "/api/search?text=window").await;
    let of: Vec<_> = found.as_array().expect("a list").iter().map(|j| j["id"].clone()).collect();
    assert_eq!(of, [json!(4)]);
    for path in ["/api/ways", "/api/ways/1", "/api/jobs/4/way?way=1", "/api/jobs/2/progress"] {
        assert_eq!(f.get(&cy, path).await.0, StatusCode::FORBIDDEN, "{path}");
    }
    assert_eq!(f.get(&cy, "/api/jobs/4/way").await.0, StatusCode::OK);
    assert_eq!(f.post(&cy, "/api/ways", json!({"job": 2, "name": "theirs"})).await.0, StatusCode::FORBIDDEN);
    let tick = json!({"piece": "W1/pan", "cut": true});
    assert_eq!(f.post(&cy, "/api/jobs/4/ticks", tick.clone()).await.0, StatusCode::OK);
    assert_eq!(f.post(&cy, "/api/jobs/2/ticks", tick.clone()).await.0, StatusCode::FORBIDDEN);
    // However its number is written: a job is the one whose roles are looked at, or none.
    for path in ["/api/jobs/%32", "/api/jobs/%34", "/api/jobs/+2", "/api/jobs/02", "/api/jobs//2"] {
        let status = f.get(&cy, path).await.0;
        assert!(matches!(status, StatusCode::FORBIDDEN | StatusCode::NOT_FOUND), "{path}: {status}");
    }
    // More on one job than in the firm, and less.
    let id = f
        .get(&owner, "/api/people")
        .await
        .1
        .as_array()
        .expect("people")
        .iter()
        .find(|p| p["name"] == "Cy")
        .expect("Cy")["id"]
        .clone();
    let path = format!("/api/people/{id}/role");
    for (role, path_of_job, may) in [
        (json!({"job": 2, "role": "viewer"}), "/api/jobs/2/ticks", false),
        (json!({"job": 2, "role": "crew"}), "/api/jobs/2/ticks", true),
        (json!({"role": "crew"}), "/api/jobs/3/ticks", true),
        (json!({"job": 3, "role": "none"}), "/api/jobs/3/ticks", false),
        (json!({"job": 3}), "/api/jobs/3/ticks", true),
        (json!({"job": 3, "role": "none"}), "/api/jobs/%33/ticks", false),
    ] {
        let status = f.ask(&owner, Method::POST, &path, Some(role.clone())).await.status();
        assert_eq!(status, StatusCode::NO_CONTENT, "{role}");
        let status = f.post(&cy, path_of_job, tick.clone()).await.0;
        assert_eq!(status.is_success(), may, "{role}: {status}");
    }
    let (status, said) = f.post(&owner, &path, json!({"job": 999, "role": "crew"})).await;
    assert_eq!(status, StatusCode::NOT_FOUND, "{said}");
}

#[tokio::test]
async fn what_somebody_did_is_under_their_name_and_stays_when_they_leave() {
    let f = Firm::start().await;
    let owner = f.join("Ada", Role::Owner, None).await;
    let cy = f.join("Cy", Role::Crew, None).await;
    let event = |who: &str, n: u32| {
        json!({"events": [{"id": format!("01936f00-0000-7000-8000-{n:012x}"), "who": who, "at": "2026-11-30T07:05:00Z", "place": "W1", "step": "W1/survey",
            "revision": 1, "what": {"is": "done"}, "note": ""}]})
    };
    let (status, said) = f.post(&cy, "/api/jobs/4/record", event("Ada", 1)).await;
    assert_eq!(
        (status, &said["problems"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("$.events[0].who")),
        "{said}"
    );
    assert_eq!(f.post(&cy, "/api/jobs/4/record", event("Cy", 1)).await.0, StatusCode::OK);
    let people = f.get(&owner, "/api/people").await.1;
    let id = |name: &str| {
        people.as_array().expect("people").iter().find(|p| p["name"] == name).expect("there")["id"].clone()
    };
    let leave = |id: Value| {
        f.ask(&owner, Method::POST, Box::leak(format!("/api/people/{id}/end").into_boxed_str()), Some(json!({})))
    };
    assert_eq!(leave(id("Cy")).await.status(), StatusCode::NO_CONTENT);
    assert_eq!(f.get(&cy, "/api/jobs").await.0, StatusCode::UNAUTHORIZED, "their sessions end");
    assert_eq!(f.sign_in("Cy", PASSWORD).await.status(), StatusCode::FORBIDDEN);
    let (_, record) = f.get(&owner, "/api/jobs/4/record").await;
    assert_eq!(record[0]["event"]["who"], "Cy", "{record}");
    let (_, people) = f.get(&owner, "/api/people").await;
    assert!(
        people.as_array().expect("people").last().is_some_and(|p| p["name"] == "Cy" && p["ended"].is_string()),
        "{people}"
    );
    let last = leave(id("Ada")).await;
    assert_eq!(last.status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert!(last.text().await.expect("text").contains("make another person owner first"));
    let (status, said) = f.post(&owner, &format!("/api/people/{}/role", id("Ada")), json!({"role": "viewer"})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{said}");
}

#[tokio::test]
async fn sessions_end_when_they_are_old_idle_or_ended_everywhere() {
    let f = Firm::start().await;
    let first = f.join("Ada", Role::Owner, None).await;
    let second = page_of(f.sign_in("Ada", PASSWORD).await).await;
    let r = f.ask(&second, Method::POST, "/api/sign-out-everywhere", None).await;
    let third = page_of(r).await;
    for (page, may) in [(&first, false), (&second, false), (&third, true)] {
        assert_eq!(f.get(page, "/api/jobs").await.0 == StatusCode::OK, may);
    }
    let (status, _) =
        f.post(&third, "/api/password", json!({"old": "not the one at all", "new": "gull lantern rope tide"})).await;
    assert_eq!(status, StatusCode::FORBIDDEN);
    let change = json!({"old": PASSWORD, "new": "gull lantern rope tide"});
    let fourth = page_of(f.ask(&third, Method::POST, "/api/password", Some(change)).await).await;
    assert_eq!(f.get(&third, "/api/jobs").await.0, StatusCode::UNAUTHORIZED);
    assert_eq!(f.sign_in("Ada", PASSWORD).await.status(), StatusCode::FORBIDDEN);
    let other = rusqlite::Connection::open(f.s.data.path().join("kame.db")).expect("opens");
    // It began 31 days ago, whatever was asked since.
    other
        .execute_batch(
            "UPDATE session SET data = json_set(data, '$.kept.since', CAST(strftime('%s') AS INTEGER) - 31 * 86400)",
        )
        .expect("aged");
    assert_eq!(f.get(&fourth, "/api/jobs").await.0, StatusCode::UNAUTHORIZED);
    let fifth = page_of(f.sign_in("Ada", "gull lantern rope tide").await).await;
    assert_eq!(f.get(&fifth, "/api/jobs").await.0, StatusCode::OK);
    other.execute_batch("UPDATE session SET until = CAST(strftime('%s') AS INTEGER) - 1").expect("idle");
    assert_eq!(f.get(&fifth, "/api/jobs").await.0, StatusCode::UNAUTHORIZED);
}

#[tokio::test]
async fn who_listens_for_changes_asks_anew_now_and_then_so_that_an_ended_session_hears_no_more() {
    let patience = kame_server::Patience { listening: std::time::Duration::from_millis(50), ..Default::default() };
    let s = Server::serving(Serving { sign_in: true, patience, ..Serving::default() }).await;
    let store = Store::open(&s.data.path().join("kame.db")).expect("opens");
    let f = Firm { s, store };
    let ada = f.join("Ada", Role::Owner, None).await;
    let heard = f.ask(&ada, Method::GET, "/api/jobs/4/changes", None).await;
    assert_eq!(heard.status(), StatusCode::OK);
    let all = heard.text().await.expect("it ends by itself");
    assert!(all.contains("event: standing"), "{all}");
    assert_eq!(f.post(&ada, "/api/sign-out", json!({})).await.0, StatusCode::NO_CONTENT);
    assert_eq!(f.get(&ada, "/api/jobs/4/changes").await.0, StatusCode::UNAUTHORIZED);
}

/// How the steps stand is shown without who did them and what they noted.
async fn who_did_a_step_is_not_shown(f: &Firm, owner: &Page, page: &Page) {
    let done = json!({"events": [{"id": "01936f00-0000-7000-8000-0000000000aa", "who": "Ada", "at": "2026-11-30T07:05:00Z", "place": "W1",
        "step": "W1/survey", "revision": 1, "what": {"is": "done"}, "note": "Bo held the ladder"}]});
    assert_eq!(f.post(owner, "/api/jobs/4/record", done).await.0, StatusCode::OK);
    let (_, own) = f.get(owner, "/api/jobs/4/stands?step=W1/survey").await;
    assert_eq!(
        (&own["steps"][0]["who"], &own["steps"][0]["notes"]),
        (&json!("Ada"), &json!(["Bo held the ladder"])),
        "{own}"
    );
    let (_, shown) = f.get(page, "/api/jobs/4/stands?step=W1/survey").await;
    assert_eq!(
        (&shown["steps"][0]["now"], &shown["steps"][0]["who"], &shown["steps"][0]["notes"]),
        (&json!("done"), &json!(""), &json!([])),
        "{shown}"
    );
}

#[tokio::test]
async fn a_link_shows_one_job_or_one_opening_until_it_is_taken_back() {
    let f = Firm::start().await;
    let owner = f.join("Ada", Role::Owner, None).await;
    let http = reqwest::Client::builder().redirect(reqwest::redirect::Policy::none()).build().expect("a client");
    let open = |address: String| http.get(format!("{}{address}", f.s.url)).send();
    let (status, said) = f.post(&owner, "/api/jobs/4/shares", json!({"days": 0})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{said}");
    let (status, said) = f.post(&owner, "/api/jobs/4/shares", json!({"days": 3, "place": "W99"})).await;
    assert_eq!((status, &said["problems"][0]["path"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("$.place")));
    let guest = |r: Response| {
        assert_eq!(r.headers()["x-robots-tag"], "noindex, nofollow");
        assert_eq!(r.headers()["referrer-policy"], "no-referrer");
        let cookie = r.headers()["set-cookie"].to_str().expect("text").split(';').next().expect("one").to_owned();
        Page { cookie, token: String::new() }
    };
    let (_, whole) = f.post(&owner, "/api/jobs/4/shares", json!({"days": 3})).await;
    let r = open(whole["address"].as_str().expect("an address").to_owned()).await.expect("an answer");
    assert_eq!((r.status(), r.headers()["location"].to_str().expect("text")), (StatusCode::SEE_OTHER, "/jobs/4"));
    let page = guest(r);
    for (path, may) in [
        ("/api/jobs/4", true),
        ("/api/jobs/4/truck?limit_s=0", true),
        ("/api/jobs/4/record", false),
        ("/api/jobs/4/history", false),
        ("/api/jobs/4/shares", false),
        ("/api/jobs/41", false),
        ("/api/practice/progress", false),
        ("/api/instruments", false),
        ("/api/openapi.json", false),
        ("/api/jobs/2", false),
        ("/api/jobs", false),
        ("/api/people", false),
        ("/api/deleted-jobs", false),
    ] {
        assert_eq!(f.get(&page, path).await.0 == StatusCode::OK, may, "{path}");
    }
    who_did_a_step_is_not_shown(&f, &owner, &page).await;
    assert_eq!(
        f.post(&page, "/api/jobs/4/edits", json!({"edit": "rename", "name": "x"})).await.0,
        StatusCode::FORBIDDEN
    );
    let (_, steps) = f.post(&owner, "/api/jobs/4/shares", json!({"days": 3, "place": "W1"})).await;
    let r = open(steps["address"].as_str().expect("an address").to_owned()).await.expect("an answer");
    assert_eq!(r.headers()["location"], "/jobs/4/steps?place=W1");
    let one = guest(r);
    for (path, may) in [
        ("/api/jobs/4", true),
        ("/api/jobs/4/pictures", true),
        ("/api/jobs/4/truck", false),
        ("/api/jobs/4/file", false),
    ] {
        assert_eq!(f.get(&one, path).await.0 == StatusCode::OK, may, "{path}");
    }
    let (_, list) = f.get(&owner, "/api/jobs/4/shares").await;
    assert_eq!(list.as_array().map(Vec::len), Some(2));
    assert!(!list.to_string().contains(whole["address"].as_str().expect("an address").trim_start_matches("/share/")));
    let r =
        f.ask(&owner, Method::DELETE, &format!("/api/jobs/4/shares/{}", whole["share"]["id"]), Some(json!({}))).await;
    assert_eq!(r.status(), StatusCode::NO_CONTENT);
    assert_eq!(f.get(&page, "/api/jobs/4").await.0, StatusCode::UNAUTHORIZED, "also for who came by it");
    assert_eq!(
        open(whole["address"].as_str().expect("an address").to_owned()).await.expect("an answer").status(),
        StatusCode::NOT_FOUND
    );
    assert_eq!(f.get(&one, "/api/jobs/4").await.0, StatusCode::OK);
    let other = rusqlite::Connection::open(f.s.data.path().join("kame.db")).expect("opens");
    other.execute_batch("UPDATE share SET until = '2020-01-01T00:00:00.000Z'").expect("long ago");
    assert_eq!(f.get(&one, "/api/jobs/4").await.0, StatusCode::UNAUTHORIZED);
}

#[tokio::test]
async fn who_tries_too_often_is_told_when_to_come_again_and_nothing_secret_is_kept() {
    let f = Firm::start().await;
    let owner = f.join("Ada", Role::Owner, None).await;
    let mut told = None;
    for _ in 0..12 {
        let r = f.sign_in("ada", "another rope lantern").await;
        if r.status() == StatusCode::TOO_MANY_REQUESTS {
            told = r.headers()["retry-after"].to_str().ok().and_then(|s| s.parse::<u32>().ok());
            break;
        }
        assert_eq!(r.status(), StatusCode::FORBIDDEN);
    }
    assert!(told.is_some_and(|s| (1..=31).contains(&s)), "{told:?}");
    assert_eq!(f.get(&owner, "/api/jobs").await.0, StatusCode::OK, "who is in is let alone");
    let (_, shared) = f.post(&owner, "/api/jobs/4/shares", json!({"days": 3})).await;
    let (_, invited) = f.post(&owner, "/api/invitations", json!({"role": "crew"})).await;
    let code = |v: &Value| v.as_str().expect("text").trim_start_matches("/share/").to_owned();
    let session = owner.cookie.split_once('=').expect("a name").1.to_owned();
    let mut kept = Vec::new();
    for file in ["kame.db", "kame.db-wal"] {
        kept.extend(std::fs::read(f.s.data.path().join(file)).unwrap_or_default());
    }
    let has = |text: &str| kept.windows(text.len()).any(|w| w == text.as_bytes());
    assert!(has("$argon2id$"), "passwords are kept as hashes");
    for secret in [PASSWORD.to_owned(), code(&shared["address"]), code(&invited["code"]), session] {
        assert!(secret.len() > 16 && !has(&secret), "{secret} stands in the file");
    }
}

#[tokio::test]
async fn on_one_s_own_machine_nobody_signs_in() {
    let s = Server::start().await;
    let me: Value = s.get("/api/me").await.json().await.expect("JSON");
    assert!(me["signs_in"] == false && me["person"].is_null(), "{me}");
    let r = s.get("/api/jobs").await;
    assert!(r.status() == StatusCode::OK && r.headers().get("set-cookie").is_none());
    let (status, said) = s.post("/api/jobs/2/shares", None, json!({"days": 3})).await;
    assert!(
        status == StatusCode::FORBIDDEN && said["detail"].as_str().is_some_and(|d| d.contains("--sign-in")),
        "{said}"
    );
}

#[tokio::test]
async fn who_changes_more_than_hands_do_waits_and_nobody_else_does() {
    let f = Firm::start().await;
    let ada = f.join("Ada", Role::Owner, None).await;
    let bo = f.join("Bo", Role::Builder, None).await;
    // A change of a job that is not there costs nothing and counts as one.
    let change = async |page: &Page| f.ask(page, Method::POST, "/api/jobs/999/judge", Some(json!({}))).await;
    let mut asked = 0;
    let refused = loop {
        let r = change(&ada).await;
        if r.status() == StatusCode::TOO_MANY_REQUESTS || asked == 6000 {
            break r;
        }
        asked += 1;
    };
    assert_eq!(refused.status(), StatusCode::TOO_MANY_REQUESTS);
    assert!(asked >= 600, "{asked}");
    let again: u32 = refused.headers()["retry-after"].to_str().ok().and_then(|s| s.parse().ok()).expect("seconds");
    assert!((1..=2).contains(&again), "{again}");
    assert_ne!(change(&bo).await.status(), StatusCode::TOO_MANY_REQUESTS);
    assert_eq!(f.get(&ada, "/api/jobs").await.0, StatusCode::OK, "reading is no change");
}
