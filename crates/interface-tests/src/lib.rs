//! Drives the real interface: a server of its own on a database of its own, and headless Chromium.

pub mod bucket;
pub mod http;
pub mod term;

use anyhow::{Context, bail};
use std::net::TcpListener;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};
use thirtyfour::prelude::*;

/// Project root.
pub fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// A port nobody listens on.
pub fn free_port() -> anyhow::Result<u16> {
    Ok(TcpListener::bind("127.0.0.1:0")?.local_addr()?.port())
}

/// A child process that ends with its owner.
pub struct Guarded(Child);

impl Guarded {
    /// Starts a command with its output thrown away.
    pub fn start(command: &mut Command) -> anyhow::Result<Self> {
        let child = command.stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null()).spawn();
        Ok(Guarded(child.with_context(|| format!("{command:?}"))?))
    }
}

impl Drop for Guarded {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// A server with a database and a store of its own.
pub struct Server {
    /// `http://127.0.0.1:PORT`.
    pub base: String,
    /// Its database.
    pub database: String,
    store: PathBuf,
    /// Folder whose case folders are watched for takes.
    tether: Option<PathBuf>,
    child: Option<Guarded>,
    port: u16,
    demo: bool,
    /// All, web or worker.
    role: &'static str,
    /// Endpoint of the bucket its pictures lie in.
    bucket: Option<String>,
}

impl Server {
    /// As [`Server::start`], with a folder that is watched for takes.
    pub async fn start_watching(name: &str, demo: bool) -> anyhow::Result<Server> {
        let folder = std::env::temp_dir().join(format!("slantcast-tether-{name}-{}", std::process::id()));
        let _ = std::fs::remove_dir_all(&folder);
        std::fs::create_dir_all(&folder)?;
        Server::with(name, demo, Some(folder)).await
    }

    /// The one folder of a case that is watched.
    pub fn watched_case_folder(&self) -> anyhow::Result<PathBuf> {
        let root = self.tether.as_deref().context("nothing is watched")?;
        let first = std::fs::read_dir(root)?.filter_map(Result::ok).map(|e| e.path()).find(|p| p.is_dir());
        first.context("no case is watched yet")
    }

    /// Makes a database `name` on the test cluster and serves from it. `./check` says where the
    /// cluster is.
    pub async fn start(name: &str, demo: bool) -> anyhow::Result<Server> {
        Server::with(name, demo, None).await
    }

    async fn with(name: &str, demo: bool, tether: Option<PathBuf>) -> anyhow::Result<Server> {
        with_tls();
        let cluster = std::env::var("SLANTCAST_TEST_DATABASE")
            .context("SLANTCAST_TEST_DATABASE is not set: run the tests by ./check")?;
        let name = format!("{name}_{}", std::process::id());
        let psql = |sql: String| Command::new("psql").args([&format!("{cluster}/postgres"), "-qc", &sql]).status();
        psql(format!("drop database if exists {name}"))?;
        let store = std::env::temp_dir().join(format!("slantcast-{name}"));
        let _ = std::fs::remove_dir_all(&store);
        let like = if demo { Some(Server::loaded(&cluster).await?) } else { None };
        let template = like.as_ref().map_or(String::new(), |(database, _)| format!(" template {database}"));
        if !psql(format!("create database {name}{template}"))?.success() {
            bail!("cannot make the database {name}");
        }
        if let Some((_, from)) = &like
            && !Command::new("cp").arg("-r").arg(from).arg(&store).status()?.success()
        {
            bail!("cannot copy the demo's pictures");
        }
        let mut server = Server::at(&cluster, &name, store, demo, tether)?;
        server.again().await?;
        Ok(server)
    }

    /// A database and a store with the demo's data, made once on a test cluster by this build and copied from then on: reading
    /// all its pictures takes half a minute.
    async fn loaded(cluster: &str) -> anyhow::Result<(String, PathBuf)> {
        let program = std::fs::metadata(root().join("target/debug/slantcast"))?;
        let made = program.modified()?.duration_since(std::time::UNIX_EPOCH)?.as_millis();
        let at = cluster.rsplit(':').next().unwrap_or_default().replace(|c: char| !c.is_ascii_alphanumeric(), "");
        let name = format!("demo_{at}_{made}");
        let store = std::env::temp_dir().join(format!("slantcast-{name}"));
        let url = format!("{cluster}/postgres");
        // tests beside this one wait until it is there
        let lock = std::fs::File::create(std::env::temp_dir().join(format!("slantcast-demo-{at}.lock")))?;
        let _held = tokio::task::spawn_blocking(move || lock.lock().map(|()| lock)).await??;
        let there = Command::new("psql")
            .args([&url, "-Atqc", &format!("select 1 from pg_database where datname = '{name}' and datistemplate")])
            .output()?;
        if there.stdout.starts_with(b"1") && store.is_dir() {
            return Ok((name, store));
        }
        let psql = |sql: String| Command::new("psql").args([&url, "-qc", &sql]).status();
        let _ = std::fs::remove_dir_all(&store);
        psql(format!("drop database if exists {name}"))?;
        psql(format!("create database {name}"))?;
        let mut server = Server::at(cluster, &name, store.clone(), true, None)?;
        server.leave_jobs();
        server.again().await?;
        // it must have no connection while it is copied, and its pictures stay
        server.child = None;
        server.store = PathBuf::new();
        psql(format!("select pg_terminate_backend(pid) from pg_stat_activity where datname = '{name}'"))?;
        psql(format!("alter database {name} is_template true"))?;
        Ok((name, store))
    }

    fn at(cluster: &str, name: &str, store: PathBuf, demo: bool, tether: Option<PathBuf>) -> anyhow::Result<Server> {
        let port = free_port()?;
        Ok(Server {
            base: format!("http://127.0.0.1:{port}"),
            database: format!("{cluster}/{name}"),
            store,
            tether,
            child: None,
            port,
            demo,
            role: "all",
            bucket: None,
        })
    }

    /// From the next start on its pictures lie in a bucket.
    pub fn store_in(&mut self, bucket: &bucket::Bucket) {
        self.bucket = Some(bucket.endpoint.clone());
    }

    /// From the next start on it answers requests and leaves jobs to others.
    pub fn leave_jobs(&mut self) {
        self.role = "web";
    }

    /// Another process on the same database and store; it ends when it is dropped.
    pub fn beside(&self, role: &str) -> anyhow::Result<(Guarded, String)> {
        let port = free_port()?;
        let mut command = Command::new(root().join("target/debug/slantcast"));
        command
            .arg("serve")
            .args(["--listen", &format!("127.0.0.1:{port}"), "--database-url", &self.database, "--role", role])
            .arg("--store")
            .arg(&self.store)
            .arg("--web")
            .arg(root().join("web/dist"));
        Ok((Guarded::start(&mut command)?, format!("http://127.0.0.1:{port}")))
    }

    /// Address of its database.
    pub fn database(&self) -> &str {
        &self.database
    }

    /// Folder its pictures are kept in.
    pub fn store(&self) -> &Path {
        &self.store
    }

    /// Highest memory its process had so far, megabytes.
    pub fn peak_mb(&self) -> Option<u64> {
        let pid = self.child.as_ref()?.0.id();
        let status = std::fs::read_to_string(format!("/proc/{pid}/status")).ok()?;
        let line = status.lines().find(|l| l.starts_with("VmHWM:"))?;
        line.split_whitespace().nth(1)?.parse::<u64>().ok().map(|kb| kb / 1024)
    }

    /// Starts the process, or kills it hard and starts it again on the same data.
    pub async fn again(&mut self) -> anyhow::Result<()> {
        self.child = None;
        let mut command = Command::new(root().join("target/debug/slantcast"));
        command
            .arg("serve")
            .args(["--listen", &format!("127.0.0.1:{}", self.port), "--database-url", &self.database])
            .arg("--store")
            .arg(self.bucket.as_ref().map_or(self.store.clone(), |_| PathBuf::from("s3://pictures/slant")))
            .args(["--role", self.role])
            .arg("--web")
            .arg(root().join("web/dist"));
        if self.demo {
            command.arg("--demo");
        }
        if let Some(folder) = &self.tether {
            command.arg("--tether").arg(folder);
        }
        if let Some(endpoint) = &self.bucket {
            command.envs([
                ("AWS_ENDPOINT", endpoint.as_str()),
                ("AWS_ALLOW_HTTP", "true"),
                ("AWS_REGION", "local"),
                ("AWS_ACCESS_KEY_ID", "stand-in"),
                ("AWS_SECRET_ACCESS_KEY", "stand-in"),
            ]);
        }
        self.child = Some(Guarded::start(&mut command)?);
        let deadline = Instant::now() + Duration::from_secs(150);
        loop {
            let ready = reqwest::get(format!("{}/health/ready", self.base)).await;
            if ready.is_ok_and(|r| r.status().is_success()) {
                return Ok(());
            }
            if Instant::now() > deadline {
                bail!("the server does not get ready");
            }
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        self.child = None;
        if !self.store.as_os_str().is_empty() {
            let _ = std::fs::remove_dir_all(&self.store);
        }
        if let Some(folder) = &self.tether {
            let _ = std::fs::remove_dir_all(folder);
        }
    }
}

/// Gives the clients of the tests their cryptography; the program sets its own. Any number of times.
pub fn with_tls() {
    let _ = rustls::crypto::ring::default_provider().install_default();
}

/// A browser window.
pub struct Browser {
    /// The page.
    pub page: WebDriver,
    _driver: Guarded,
    profile: PathBuf,
}

impl Browser {
    /// Opens headless Chromium with a page of the given size in CSS pixels. Windows under 500 pixels
    /// wide are opened as a phone's screen: Chromium keeps real ones wider.
    pub async fn open(width: u32, height: u32) -> anyhow::Result<Browser> {
        with_tls();
        let port = free_port()?;
        let driver = Guarded::start(Command::new("chromedriver").arg(format!("--port={port}")))?;
        let profile = std::env::temp_dir().join(format!("slantcast-profile-{}-{port}", std::process::id()));
        let mut caps = DesiredCapabilities::chrome();
        for arg in [
            "--headless=new",
            "--no-sandbox",
            "--disable-dev-shm-usage",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-quic",
            "--no-first-run",
            "--force-device-scale-factor=1",
            "--hide-scrollbars",
            "--disable-gpu",
            "--enable-unsafe-swiftshader",
        ] {
            caps.add_arg(arg)?;
        }
        if width < 500 {
            let screen = serde_json::json!({"width": width, "height": height, "pixelRatio": 1.0, "touch": true});
            caps.add_experimental_option("mobileEmulation", serde_json::json!({ "deviceMetrics": screen }))?;
        }
        caps.add_arg(&format!("--window-size={width},{}", height + 143))?;
        caps.add_arg(&format!("--user-data-dir={}", profile.display()))?;
        caps.set_browser_log_level(thirtyfour::common::log::LoggingPrefsLogLevel::All).ok();
        let deadline = Instant::now() + Duration::from_secs(30);
        let page = loop {
            match WebDriver::new(&format!("http://127.0.0.1:{port}"), caps.clone()).await {
                Ok(p) => break p,
                Err(e) if Instant::now() > deadline => return Err(e.into()),
                Err(_) => tokio::time::sleep(Duration::from_millis(200)).await,
            }
        };
        page.set_implicit_wait_timeout(Duration::ZERO).await?;
        Ok(Browser { page, _driver: driver, profile })
    }

    /// Waits for an element by its `data-test` name.
    pub async fn wait(&self, name: &str) -> anyhow::Result<WebElement> {
        self.css(&format!("[data-test='{name}']")).await
    }

    /// Waits for an element by a CSS selector.
    pub async fn css(&self, css: &str) -> anyhow::Result<WebElement> {
        self.css_within(css, 15).await
    }

    /// The same for what may take longer.
    pub async fn css_within(&self, css: &str, seconds: u64) -> anyhow::Result<WebElement> {
        let wait = Duration::from_secs(seconds);
        let found = self.page.query(By::Css(css)).wait(wait, Duration::from_millis(60)).first().await;
        found.with_context(|| format!("waiting for {css}"))
    }

    /// Text of an element once it satisfies a test.
    pub async fn text_when(&self, name: &str, ok: impl Fn(&str) -> bool) -> anyhow::Result<String> {
        self.text_within(name, 15, ok).await
    }

    /// The same for what may take longer.
    pub async fn text_within(&self, name: &str, seconds: u64, ok: impl Fn(&str) -> bool) -> anyhow::Result<String> {
        let deadline = Instant::now() + Duration::from_secs(seconds);
        let mut last = String::new();
        loop {
            if let Ok(e) = self.wait(name).await
                && let Ok(t) = e.text().await
            {
                if ok(&t) {
                    return Ok(t);
                }
                last = t;
            }
            if Instant::now() > deadline {
                bail!("{name}: still \"{last}\"");
            }
            tokio::time::sleep(Duration::from_millis(80)).await;
        }
    }

    /// Clicks an element by its `data-test` name.
    pub async fn click(&self, name: &str) -> anyhow::Result<()> {
        self.click_at(By::Css(format!("[data-test='{name}']"))).await
    }

    /// Takes one of a list by its value.
    pub async fn choose(&self, name: &str, value: &str) -> anyhow::Result<()> {
        self.click_at(By::Css(format!("[data-test='{name}'] option[value='{value}']"))).await
    }

    /// Clicks the first that is found; as a person would, again if the page moved under the pointer.
    pub async fn click_at(&self, by: By) -> anyhow::Result<()> {
        let deadline = Instant::now() + Duration::from_secs(20);
        loop {
            let found =
                self.page.query(by.clone()).wait(Duration::from_secs(30), Duration::from_millis(60)).first().await;
            let e = found.with_context(|| format!("waiting for {by}"))?;
            match e.click().await {
                Ok(()) => return Ok(()),
                Err(why) if Instant::now() > deadline => return Err(why).with_context(|| format!("clicking {by}")),
                Err(_) => {}
            }
            // what moves may have left the window meanwhile
            let _ = e.scroll_into_view().await;
            tokio::time::sleep(Duration::from_millis(250)).await;
        }
    }

    /// Replaces the text of a field and leaves it.
    pub async fn fill(&self, name: &str, text: &str) -> anyhow::Result<()> {
        let e = self.wait(name).await?;
        e.clear().await?;
        e.send_keys(text).await?;
        Ok(())
    }

    /// Signs in on the entry page as the demo's instructor, who lands on the wall that waits.
    pub async fn sign_in_to_the_wall(&self, base: &str) -> anyhow::Result<()> {
        self.page.goto(format!("{base}/sign-in")).await?;
        self.fill("email", "ilse@puppets.example").await?;
        self.fill("password", "strings and shadows").await?;
        self.click("enter").await?;
        self.text_within("wall-count", 60, |t| t.contains(" of ")).await?;
        Ok(())
    }

    /// Opens the first class of who is signed in, and a tab of it.
    pub async fn open_class(&self, tab: &str) -> anyhow::Result<()> {
        self.click("tool-class").await?;
        self.css_within("[data-test=class-card] a", 20).await?.click().await?;
        self.css_within(&format!("[aria-controls={tab}]"), 20).await?.click().await?;
        Ok(())
    }

    /// Signs in on the entry page.
    pub async fn sign_in(&self, base: &str, email: &str, password: &str) -> anyhow::Result<()> {
        self.page.goto(format!("{base}/sign-in")).await?;
        self.fill("email", email).await?;
        self.fill("password", password).await?;
        self.click("enter").await?;
        self.wait("sign-out").await?;
        // those who teach begin elsewhere
        if !self.page.current_url().await?.path().starts_with("/cases") {
            self.page.goto(format!("{base}/cases")).await?;
        }
        self.wait("new-case").await?;
        Ok(())
    }

    /// Where a picture pixel lies in the window, for pointer actions on the halo of a picture that
    /// is `width` pixels wide.
    pub async fn picture_place(&self, width: f64) -> anyhow::Result<(f64, f64, f64)> {
        let script = "const i = document.querySelector('[data-test=halo] image').getBoundingClientRect(); return [i.left, i.top, i.width];";
        let v: Vec<f64> = serde_json::from_value(self.page.execute(script, vec![]).await?.json().clone())?;
        Ok((v[0], v[1], v[2] / width))
    }

    /// Presses at one pixel of the picture, drags to another and lets go.
    pub async fn drag(&self, width: f64, from: [f64; 2], to: [f64; 2]) -> anyhow::Result<()> {
        let (x, y, k) = self.picture_place(width).await?;
        let at = |p: [f64; 2]| ((x + p[0] * k).round() as i64, (y + p[1] * k).round() as i64);
        self.pull(at(from), at(to)).await
    }

    /// Presses at one place of what is shown, told in shares of its width and height, drags to another and lets go.
    pub async fn stroke(&self, name: &str, from: [f64; 2], to: [f64; 2]) -> anyhow::Result<()> {
        let rect = self.wait(name).await?.rect().await?;
        let at =
            |p: [f64; 2]| ((rect.x + p[0] * rect.width).round() as i64, (rect.y + p[1] * rect.height).round() as i64);
        self.pull(at(from), at(to)).await
    }

    async fn pull(&self, a: (i64, i64), b: (i64, i64)) -> anyhow::Result<()> {
        let mid = ((a.0 + b.0) / 2, (a.1 + b.1) / 2);
        self.page
            .action_chain()
            .move_to(a.0, a.1)
            .click_and_hold()
            .move_to(mid.0, mid.1)
            .move_to(b.0, b.1)
            .release()
            .perform()
            .await?;
        Ok(())
    }

    /// Runs axe-core over the page (WCAG 2.2 A and AA).
    ///
    /// # Errors
    /// If it finds anything; `view` names the page in the message.
    pub async fn accessible(&self, view: &str) -> anyhow::Result<()> {
        let axe = std::fs::read_to_string(root().join("web/node_modules/axe-core/axe.min.js"))?;
        self.page.execute(&axe, vec![]).await?;
        let script = "const done = arguments[arguments.length - 1];
            // what a bar that sticks to the window's edge hides just now is there again once one scrolls
            const bars = [...document.querySelectorAll('main *')].filter(e => getComputedStyle(e).position === 'sticky');
            bars.forEach(e => e.style.position = 'static');
            axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] })
               .then(r => (bars.forEach(e => e.style.position = ''), r))
               .then(r => done(r.violations.map(v => v.id + ': ' + v.nodes.map(n => n.target.join(' ') + ' ' + n.failureSummary).join(' | '))));";
        let found: Vec<String> = serde_json::from_value(self.page.execute_async(script, vec![]).await?.json().clone())?;
        anyhow::ensure!(found.is_empty(), "{view}: {found:#?}");
        Ok(())
    }

    /// Whether the page fits the window's width.
    ///
    /// # Errors
    /// If it does not; `view` names the page in the message.
    pub async fn no_overflow(&self, view: &str) -> anyhow::Result<()> {
        let v = self.page.execute("return document.documentElement.scrollWidth - window.innerWidth;", vec![]).await?;
        anyhow::ensure!(v.json().as_f64().unwrap_or(99.0) <= 1.0, "{view} is wider than the window");
        Ok(())
    }

    /// Messages of the console that are errors.
    pub async fn console_errors(&self) -> anyhow::Result<Vec<String>> {
        let log = self.page.browser_log().await?;
        Ok(log.into_iter().filter(|l| l.level == "SEVERE").map(|l| l.message).collect())
    }

    /// Takes a picture with the simulated camera in Takes, and waits until it is the take of that number and was compared.
    pub async fn shoot_take(&self, number: usize) -> anyhow::Result<()> {
        self.wait("shoot").await?.send_keys(Key::Enter + "").await?;
        self.css_within(&format!("[data-test=take-{number}]"), 60).await?;
        self.text_when("take-details", |t| t.contains(&format!("Take {number}"))).await?;
        self.css_within("[data-test=next-move]", 60).await?;
        Ok(())
    }

    /// Saves a PNG of the window.
    pub async fn shot(&self, file: &Path) -> anyhow::Result<()> {
        self.page.screenshot(file).await?;
        Ok(())
    }

    /// Closes the window.
    pub async fn close(self) -> anyhow::Result<()> {
        self.page.clone().quit().await?;
        let _ = std::fs::remove_dir_all(&self.profile);
        Ok(())
    }
}
