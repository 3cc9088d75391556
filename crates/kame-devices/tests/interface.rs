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
    assert!(all.iter().any(|i| i.serial == "ST-2" && i.calibrated < "2022".to_owned()));
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
