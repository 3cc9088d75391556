//! A whole Kame and a whole browser for one test: own server, own data folder, own ChromeDriver, all on free ports.
#![warn(missing_docs)]

use anyhow::{Context, Result, bail};
use fantoccini::elements::Element;
use fantoccini::wd::Capabilities;
use fantoccini::{Client, ClientBuilder, Locator};
use hyper_util::client::legacy::connect::HttpConnector;
use kame_server::Serving;
use kame_store::Store;
use serde_json::{Value, json};
use std::path::Path;
use std::process::Stdio;
use std::sync::Arc;
use std::time::Duration;
use tempfile::TempDir;
use tokio::io::{AsyncBufReadExt, BufReader, Lines};
use tokio::net::TcpListener;
use tokio::process::{Child, ChildStdout, Command};
use tokio::sync::oneshot;
use tokio::task::JoinHandle;
use tokio::time::timeout;

/// How long the page may take to come to what is waited for: a machine that is much slower than usual comes to it, too.
const PATIENCE: Duration = Duration::from_secs(60);

/// A running Kame.
pub struct Kame {
    /// Where it is open.
    pub url: String,
    stop: Option<oneshot::Sender<()>>,
    serving: Option<JoinHandle<()>>,
    how: Serving,
    data: TempDir,
}

impl Kame {
    /// Starts a server of its own, with the demo jobs or empty.
    ///
    /// # Errors
    /// What the store or the listener says.
    pub async fn start(demo: bool) -> Result<Self> {
        Self::started(demo, Serving::default()).await
    }

    /// The same with simulated instruments and weather.
    ///
    /// # Errors
    /// As [`Kame::start`].
    pub async fn with_instruments(demo: bool) -> Result<Self> {
        let listener = TcpListener::bind("127.0.0.1:0").await?;
        let instruments = Some(format!("http://{}", listener.local_addr()?));
        tokio::spawn(async move { axum::serve(listener, kame_devices::router()).await });
        Self::started(demo, Serving { instruments, ..Serving::default() }).await
    }

    /// The same where people sign in, with the code by which the first comes.
    ///
    /// # Errors
    /// As [`Kame::start`].
    pub async fn signing_in() -> Result<(Self, String)> {
        let kame = Self::started(true, Serving { sign_in: true, plain_http: true, ..Serving::default() }).await?;
        let code = kame_server::secret();
        Store::open(&kame.data.path().join("kame.db"))?.invite(&code, kame_store::Role::Owner, None, 1, "Kame")?;
        Ok((kame, code))
    }

    async fn started(demo: bool, how: Serving) -> Result<Self> {
        let data = TempDir::new()?;
        let store = Arc::new(Store::open(&data.path().join("kame.db"))?);
        if demo {
            kame_server::load_demo(&store)?;
        }
        let listener = TcpListener::bind("127.0.0.1:0").await?;
        let url = format!("http://{}", listener.local_addr()?);
        let mut kame = Self { url, stop: None, serving: None, how, data };
        kame.serve(listener, store);
        Ok(kame)
    }

    fn serve(&mut self, listener: TcpListener, store: Arc<Store>) {
        let (stop, stopped) = oneshot::channel::<()>();
        self.stop = Some(stop);
        let how = self.how.clone();
        self.serving = Some(tokio::spawn(async move {
            let stop = async { stopped.await.unwrap_or_default() };
            kame_server::serve(listener, store, how, stop).await.ok();
        }));
    }

    /// The folder of its data, in which a test may leave files.
    pub fn folder(&self) -> &Path {
        self.data.path()
    }

    /// Ends the server: from here on nobody answers.
    ///
    /// # Errors
    /// Where it ended by itself.
    pub async fn silence(&mut self) -> Result<()> {
        self.stop.take().context("a running server")?.send(()).ok();
        Ok(self.serving.take().context("a running server")?.await?)
    }

    /// Starts it again where it was, with the data it had.
    ///
    /// # Errors
    /// What the store or the listener says.
    pub async fn speak(&mut self) -> Result<()> {
        let store = Arc::new(Store::open(&self.data.path().join("kame.db"))?);
        let listener = TcpListener::bind(self.url.trim_start_matches("http://")).await?;
        self.serve(listener, store);
        Ok(())
    }
}

impl Drop for Kame {
    fn drop(&mut self) {
        if let Some(stop) = self.stop.take() {
            stop.send(()).ok();
        }
    }
}

/// How often a driver is started: it looks for a free port and then opens it, and another may have taken it in between.
const STARTS: usize = 5;

/// A running ChromeDriver, what it prints, and its port.
async fn driver() -> Result<(Child, Lines<BufReader<ChildStdout>>, String)> {
    for _ in 0..STARTS {
        let mut process = Command::new("chromedriver")
            .args(["--port=0"])
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .kill_on_drop(true)
            .spawn()
            .context("chromedriver (Debian package chromium-driver)")?;
        let out = process.stdout.take().context("chromedriver's output")?;
        let mut lines = BufReader::new(out).lines();
        while let Some(line) = lines.next_line().await? {
            if let Some(port) = line.split("started successfully on port ").nth(1) {
                let port = port.trim_end_matches('.').to_owned();
                return Ok((process, lines, port));
            }
        }
    }
    bail!("chromedriver ended {STARTS} times before it named its port")
}

/// A running browser.
pub struct Browser {
    /// The client that drives it.
    pub client: Client,
    driver: String,
    _process: Child,
    _profile: TempDir,
}

impl Browser {
    /// Starts a browser of its own with a viewport of that size.
    ///
    /// # Errors
    /// What ChromeDriver says.
    pub async fn start(width: u32, height: u32) -> Result<Self> {
        let browser = Self::with(json!({}), width, height).await?;
        browser.resize(width, height).await?;
        Ok(browser)
    }

    /// Starts a browser that shows pages as a phone of that size does.
    ///
    /// # Errors
    /// What ChromeDriver says.
    pub async fn phone(width: u32, height: u32) -> Result<Self> {
        let metrics = json!({"width": width, "height": height, "pixelRatio": 2.0, "touch": true});
        Self::with(json!({"mobileEmulation": {"deviceMetrics": metrics}}), 600, 1000).await
    }

    /// Starts a browser as on a phone whose camera sees a film (Y4M) again and again.
    ///
    /// # Errors
    /// What ChromeDriver says.
    pub async fn phone_seeing(width: u32, height: u32, film: &Path) -> Result<Self> {
        let metrics = json!({"width": width, "height": height, "pixelRatio": 2.0, "touch": true});
        let sees = format!("--use-file-for-fake-video-capture={}", film.display());
        let camera = ["--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream", sees.as_str()];
        Self::with(json!({"mobileEmulation": {"deviceMetrics": metrics}, "args": camera}), 600, 1000).await
    }

    async fn with(mut options: Value, width: u32, height: u32) -> Result<Self> {
        let (process, mut lines, port) = driver().await?;
        // What it prints later has to be read, or it would stop at a full pipe.
        tokio::spawn(async move { while let Ok(Some(_)) = lines.next_line().await {} });
        let driver = format!("http://127.0.0.1:{port}");
        let profile = TempDir::new()?;
        let flags = [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--force-color-profile=srgb",
            "--force-prefers-reduced-motion",
        ];
        let mut args: Vec<String> = flags.iter().map(ToString::to_string).collect();
        args.push(format!("--window-size={width},{height}"));
        args.push(format!("--user-data-dir={}", profile.path().display()));
        let more = options["args"].as_array().cloned().unwrap_or_default();
        args.extend(more.iter().filter_map(Value::as_str).map(str::to_owned));
        let mut capabilities = Capabilities::new();
        options["args"] = json!(args);
        capabilities.insert("goog:chromeOptions".into(), options);
        // What is waited for in a script may take as long as anything.
        capabilities.insert("timeouts".into(), json!({"script": 2 * PATIENCE.as_millis() as u64}));
        let client = ClientBuilder::new(HttpConnector::new()).capabilities(capabilities).connect(&driver).await?;
        Ok(Self { client, driver, _process: process, _profile: profile })
    }

    /// Gives the page itself that size: a window's frame takes some of the window's.
    async fn resize(&self, width: u32, height: u32) -> Result<()> {
        self.client.set_window_size(width, height).await?;
        let frame = self
            .client
            .execute("return [window.outerWidth - window.innerWidth, window.outerHeight - window.innerHeight]", vec![])
            .await?;
        let part = |i: usize| frame[i].as_u64().unwrap_or(0) as u32;
        self.client.set_window_size(width + part(0), height + part(1)).await?;
        Ok(())
    }

    /// Waits for an element.
    ///
    /// # Errors
    /// Where it does not come.
    pub async fn wait(&self, css: &str) -> Result<Element> {
        self.client
            .wait()
            .at_most(PATIENCE)
            .for_element(Locator::Css(css))
            .await
            .with_context(|| format!("waiting for {css}"))
    }

    /// Waits until a script answers true.
    ///
    /// # Errors
    /// Where it does not; with what the script says then.
    pub async fn until(&self, script: &str) -> Result<()> {
        let looped = format!(
            "const done = arguments[arguments.length - 1]; const end = Date.now() + {};
             const look = () => {{ let v = false; try {{ v = (() => {{ {script} }})(); }} catch (e) {{ v = String(e); }}
               if (v === true) done(true); else if (Date.now() > end) done(v === undefined ? 'undefined' : v); else requestAnimationFrame(look); }}; look();",
            PATIENCE.as_millis()
        );
        let answer = self.client.execute_async(&looped, vec![]).await?;
        if answer == Value::Bool(true) { Ok(()) } else { bail!("never came true: {script}\nlast: {answer}") }
    }

    /// Waits until the page's text contains something.
    ///
    /// # Errors
    /// Where it does not.
    pub async fn until_text(&self, css: &str, text: &str) -> Result<()> {
        let script = format!(
            "const e = document.querySelector({}); return e ? (e.textContent.includes({}) || e.textContent) : 'no element';",
            json!(css),
            json!(text)
        );
        self.until(&script).await
    }

    /// Clicks an element once it is there. Where it was drawn anew between being found and being clicked, nothing was clicked: it is found again.
    ///
    /// # Errors
    /// Where it is not.
    pub async fn click(&self, css: &str) -> Result<()> {
        let found_and_clicked = async {
            loop {
                match self.wait(css).await?.click().await {
                    Err(e) if e.is_stale_element_reference() => {}
                    clicked => return clicked.with_context(|| format!("clicking {css}")),
                }
            }
        };
        timeout(PATIENCE, found_and_clicked).await.with_context(|| format!("{css} is drawn anew all the time"))?
    }

    /// Opens a drop-down and takes the option whose text contains something.
    ///
    /// # Errors
    /// Where there is no such option.
    pub async fn choose(&self, css: &str, text: &str) -> Result<()> {
        // An answer that comes just then draws the control anew, and a click that met the one before opens nothing: so it is clicked until it is
        // open, as a person would. The list comes to rest before it can be hit. The list of the control before may still be going away: only
        // that of this one counts.
        let own = format!(
            "const c = document.querySelector({0});
             const list = c?.getAttribute('aria-expanded') === 'true' ? document.getElementById(c.getAttribute('aria-controls')) : null;
             const options = [...(list?.querySelectorAll('[role=option]') ?? [])];",
            json!(css)
        );
        // What can be chosen may follow from an answer that is still on its way: the option is waited for.
        let chosen = format!(
            "{own} if (document.querySelector('.p-anchored-overlay-enter-active, .p-connected-overlay-enter-active')) return false;
             const o = options.find(o => o.textContent.includes({}));
             if (o) {{ o.scrollIntoView({{block: 'nearest'}}); o.dispatchEvent(new MouseEvent('mousedown', {{bubbles: true}})); return true; }}
             const now = performance.now();
             if (c && c.getAttribute('aria-expanded') !== 'true' && !(now - (c.kameClicked ?? -1e9) < 500)) {{ c.kameClicked = now; c.click(); }}
             return options.length ? 'no such option yet' : false;",
            json!(text)
        );
        self.until(&chosen).await.with_context(|| format!("choosing \"{text}\" in {css}"))
    }

    /// Takes an answer from the pictures of a question whose control has the selector: the one whose name has the text, or whose id it is. The
    /// pictures go away, and the control says the answer's name, which is given back.
    ///
    /// # Errors
    /// Where there is none, or it cannot be taken.
    pub async fn answer(&self, css: &str, text: &str) -> Result<String> {
        let taken = format!(
            "const c = document.querySelector({0});
             const all = [...document.querySelectorAll('[data-test=choices] [data-choice]')];
             const free = all.filter(o => !o.disabled);
             const o = free.find(o => o.dataset.choice === {1}) ?? free.find(o => o.querySelector('b').textContent.includes({1}));
             if (o) {{ window.kameAnswer = o.querySelector('b').textContent.trim(); o.click(); return true; }}
             const now = performance.now();
             if (c && c.getAttribute('aria-expanded') !== 'true' && !(now - (c.kameClicked ?? -1e9) < 500)) {{ c.kameClicked = now; c.click(); }}
             return all.length ? 'no such answer yet' : false;",
            json!(css),
            json!(text)
        );
        self.until(&taken).await.with_context(|| format!("answering \"{text}\" in {css}"))?;
        self.until("return !document.querySelector('[data-test=choices]')").await?;
        let said = format!("return document.querySelector({})?.textContent.trim() === window.kameAnswer", json!(css));
        self.until(&said).await.with_context(|| format!("after answering \"{text}\" in {css}"))?;
        Ok(self.eval("return window.kameAnswer").await?.as_str().unwrap_or_default().to_owned())
    }

    /// Presses keys with nothing but the page focused.
    ///
    /// # Errors
    /// What the browser says.
    pub async fn press(&self, keys: &str) -> Result<()> {
        self.client.active_element().await?.send_keys(keys).await?;
        Ok(())
    }

    /// Writes a value into a field and sets it with Enter.
    ///
    /// # Errors
    /// Where the field is not there.
    pub async fn fill(&self, css: &str, text: &str) -> Result<()> {
        self.click(css).await?;
        let field = self.wait(css).await?;
        field.send_keys("\u{e009}a\u{e000}").await?;
        field.send_keys(&format!("{text}\u{e007}")).await?;
        Ok(())
    }

    /// The text of an element.
    ///
    /// # Errors
    /// Where it is not there.
    pub async fn text(&self, css: &str) -> Result<String> {
        Ok(self.wait(css).await?.text().await?)
    }

    /// What a script returns.
    ///
    /// # Errors
    /// What the browser says.
    pub async fn eval(&self, script: &str) -> Result<Value> {
        Ok(self.client.execute(script, vec![]).await?)
    }

    /// Saves a picture of the page.
    ///
    /// # Errors
    /// What the browser or the disk says.
    pub async fn picture(&self, file: &Path) -> Result<()> {
        // Two frames, so that what was just set is drawn.
        self.client
            .execute_async(
                "const d = arguments[0]; requestAnimationFrame(() => requestAnimationFrame(() => d(true)))",
                vec![],
            )
            .await?;
        std::fs::write(file, self.client.screenshot().await?)?;
        Ok(())
    }

    /// Whether what is shown is for everybody: axe finds nothing serious in it.
    ///
    /// # Errors
    /// What axe found, with the name it is told under.
    pub async fn is_for_everybody(&self, name: &str) -> Result<()> {
        self.axe(name, "{resultTypes: ['violations']}").await
    }

    /// The same for what is read in the sun: contrast of the highest grade.
    ///
    /// # Errors
    /// As [`Browser::is_for_everybody`].
    pub async fn is_for_the_sun(&self, name: &str) -> Result<()> {
        self.axe(name, "{resultTypes: ['violations'], rules: {'color-contrast-enhanced': {enabled: true}}}").await
    }

    async fn axe(&self, name: &str, how: &str) -> Result<()> {
        let axe = concat!(env!("CARGO_MANIFEST_DIR"), "/../web/node_modules/axe-core/axe.min.js");
        self.eval(&std::fs::read_to_string(axe)?).await?;
        let run = "const done = arguments[0]; axe.run(document, HOW).then(r => done(r.violations.filter(v => ['serious', 'critical'].includes(v.impact)).map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.target.join(' ')).join(', '))));";
        let found = self.client.execute_async(&run.replace("HOW", how), vec![]).await?;
        if found != json!([]) {
            bail!("{name}: {found:#}");
        }
        Ok(())
    }

    /// Ends browser and driver.
    ///
    /// # Errors
    /// What the browser says.
    pub async fn end(self) -> Result<()> {
        self.client.close().await?;
        reqwest::get(format!("{}/shutdown", self.driver)).await.ok();
        Ok(())
    }
}

/// A building of walls of 600 in, unfolded: windows in two storeys, pipes between them.
pub fn building(windows: i64, pipes: i64) -> Value {
    let (wall, each) = (600, 15);
    let walls = (windows + each - 1) / each;
    let thing = |id: String, kind: &str, at: [i64; 2], size: [i64; 2]| {
        json!({"id": id, "name": id, "feature": kind, "left": format!("{} in", at[0]), "sill": format!("{} in", at[1]),
               "width": format!("{} in", size[0]), "height": format!("{} in", size[1]), "depth": "5 1/2 in", "flange": "1 3/8 in"})
    };
    let windows = (0..windows).map(|k| {
        let (w, row, column) = (k / each, k % each % 2, k % each / 2);
        thing(format!("W{}", k + 1), "opening", [wall * w + 26 + column * 70, 28 + row * 104], [28, 40])
    });
    let pipes = (0..pipes).map(|k| {
        let (w, i) = (k % walls, k / walls);
        thing(
            format!("P{}", k + 1),
            "penetration",
            [wall * w + 14 + i / 3 * 64, [4, 92, 204][(i % 3) as usize]],
            [2, 2],
        )
    });
    let corners: Vec<Value> = (1..walls)
        .map(|i| json!({"at": format!("{} in", wall * i), "kind": "outside", "name": format!("Wall {}", i + 1)}))
        .collect();
    let things: Vec<Value> = windows.chain(pipes).collect();
    json!({"format": "kame-job", "version": 3, "name": "speed", "openings": things,
           "wall": {"name": "Wall 1", "width": format!("{} in", wall * walls), "height": "236 in", "corners": corners}})
}
