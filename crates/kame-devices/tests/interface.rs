//! The instruments through a real listener: each answers, and each fault does what it says.

use kame_devices::{Fault, Instrument, Reading, router};
use reqwest::{Client, StatusCode};
use serde_json::json;
use std::collections::HashSet;

async fn bench() -> (String, Client) {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.expect("a port");
    let url = format!("http://{}", listener.local_addr().expect("an address"));
    tokio::spawn(async move { axum::serve(listener, router()).await });
    (url, Client::new())
}

async fn read(http: &Client, url: &str, serial: &str, quantity: &str) -> Result<Reading, StatusCode> {
    let asked =
        http.get(format!("{url}/instruments/{serial}/reading?quantity={quantity}")).send().await.expect("an answer");
    if asked.status().is_success() { Ok(asked.json().await.expect("a reading")) } else { Err(asked.status()) }
}

async fn order(http: &Client, url: &str, serial: &str, fault: Fault) {
    let sent = http.put(format!("{url}/instruments/{serial}/fault")).json(&json!({ "fault": fault })).send().await;
    assert_eq!(sent.expect("an answer").status(), StatusCode::NO_CONTENT);
}

#[tokio::test]
async fn every_instrument_introduces_itself_and_reads_once_it_was_started() {
    let (url, http) = bench().await;
    let all: Vec<Instrument> =
        http.get(format!("{url}/instruments")).send().await.expect("an answer").json().await.expect("a list");
    let serials: HashSet<&str> = all.iter().map(|i| i.serial.as_str()).collect();
    assert_eq!((all.len(), serials.len()), (7, 7));
    for i in &all {
        assert_eq!(
            read(&http, &url, &i.serial, &i.reads[0]).await,
            Err(StatusCode::UNPROCESSABLE_ENTITY),
            "not started"
        );
        let started = http.post(format!("{url}/instruments/{}/start", i.serial)).send().await.expect("an answer");
        assert_eq!(started.status(), StatusCode::NO_CONTENT);
        for quantity in &i.reads {
            let reading = read(&http, &url, &i.serial, quantity).await.expect("a reading");
            assert!(reading.value.parse::<f64>().is_ok() && !reading.unit.is_empty(), "{reading:?}");
        }
        assert_eq!(read(&http, &url, &i.serial, "music").await, Err(StatusCode::UNPROCESSABLE_ENTITY));
    }
    assert_eq!(read(&http, &url, "nobody", "slope").await, Err(StatusCode::UNPROCESSABLE_ENTITY));
}

#[tokio::test]
async fn faults_do_what_they_say() {
    let (url, http) = bench().await;
    http.post(format!("{url}/instruments/ST-2/start")).send().await.expect("an answer");
    let value = |r: &Reading| r.value.parse::<f64>().expect("a number");
    let right = read(&http, &url, "ST-2", "temperature").await.expect("a reading");
    assert_eq!(right.unit, "°F");
    order(&http, &url, "ST-2", Fault::WrongUnit).await;
    let wrong = read(&http, &url, "ST-2", "temperature").await.expect("a reading");
    assert!(wrong.unit == "°C" && value(&wrong) < 12.0, "{wrong:?}");
    order(&http, &url, "ST-2", Fault::OutOfRange).await;
    assert!(value(&read(&http, &url, "ST-2", "temperature").await.expect("a reading")) > 500.0);
    order(&http, &url, "ST-2", Fault::Drifting).await;
    let mut last = f64::MIN;
    for _ in 0..4 {
        let now = value(&read(&http, &url, "ST-2", "temperature").await.expect("a reading"));
        assert!(now > last + 1.0);
        last = now;
    }
    order(&http, &url, "ST-2", Fault::OutOfCalibration).await;
    let all: Vec<Instrument> =
        http.get(format!("{url}/instruments")).send().await.expect("an answer").json().await.expect("a list");
    assert!(all.iter().any(|i| i.serial == "ST-2" && i.calibrated.as_str() < "2022"));
    order(&http, &url, "ST-2", Fault::None).await;
    assert_eq!(read(&http, &url, "ST-2", "temperature").await.expect("a reading").unit, "°F");
}

#[tokio::test]
async fn a_stream_brings_one_reading_after_another() {
    let (url, http) = bench().await;
    http.post(format!("{url}/instruments/MA-7/start")).send().await.expect("an answer");
    let mut stream = http.get(format!("{url}/instruments/MA-7/stream?quantity=wind")).send().await.expect("an answer");
    let mut text = String::new();
    while text.matches("event: reading").count() < 2 {
        let part = stream.chunk().await.expect("a part").expect("more");
        text.push_str(std::str::from_utf8(&part).expect("text"));
    }
    assert!(text.contains("\"unit\":\"mph\""), "{text}");
}

#[tokio::test]
async fn the_weather_is_the_same_each_time_wet_and_dry_and_forecasts_are_worse_the_farther_they_look() {
    let (url, http) = bench().await;
    let ask = async |asked: i64| -> Vec<serde_json::Value> {
        // A March: 2026-03-02 and four weeks.
        let at = format!("{url}/weather?first=20514&days=28&asked={asked}");
        http.get(at).send().await.expect("an answer").json().await.expect("hours")
    };
    let (seen, again, forecast) = (ask(20_600).await, ask(20_600).await, ask(20_514).await);
    assert_eq!((seen.len(), &seen), (28 * 24, &again));
    let of = |hours: &[serde_json::Value], field: &str| {
        hours.iter().map(|h| h[field].as_f64().expect("a number")).collect::<Vec<_>>()
    };
    let rain = of(&seen, "rain_in");
    let wet = rain.iter().filter(|r| **r > 0.0).count();
    assert!((40..400).contains(&wet), "{wet} wet hours");
    let air = of(&seen, "air_f");
    assert!(air.iter().all(|a| (20.0..75.0).contains(a)));
    // Off by more in the last week than in the first.
    let off = |from: usize| {
        of(&forecast, "air_f")[from..from + 168]
            .iter()
            .zip(&air[from..from + 168])
            .map(|(a, b)| (a - b).abs())
            .sum::<f64>()
    };
    assert!(off(504) > 2.0 * off(0), "{} {}", off(504), off(0));
    let none = http.get(format!("{url}/weather?first=20514&days=0&asked=1")).send().await.expect("an answer");
    assert_eq!(none.status(), StatusCode::UNPROCESSABLE_ENTITY);
}
