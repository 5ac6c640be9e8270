//! Headless Chromium through ChromeDriver, each with a profile of its own.

use anyhow::{Context, Result, bail};
use std::path::{Path, PathBuf};
use std::process::Stdio;
use std::time::{Duration, Instant};
use thirtyfour::prelude::*;
use tokio::process::{Child, Command};

/// How long an element may take to show.
const PATIENCE: Duration = Duration::from_secs(20);

/// A browser. Its driver and profile end with it.
pub struct Browser {
    /// The driver.
    pub driver: WebDriver,
    base: String,
    _chromedriver: Child,
    _profile: tempfile::TempDir,
}

impl Browser {
    /// Starts a browser for the application at `base`.
    ///
    /// # Errors
    /// When Chromium or ChromeDriver do not start.
    pub async fn start(base: &str) -> Result<Self> {
        let port = host::ports::free()?;
        let chromedriver = Command::new("chromedriver")
            .arg(format!("--port={port}"))
            // whoever looks sits in another zone than the project
            .env("TZ", "America/St_Johns")
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .kill_on_drop(true)
            .spawn()
            .context("chromedriver cannot be started: install chromium-driver")?;
        let deadline = Instant::now() + Duration::from_secs(20);
        while tokio::net::TcpStream::connect(("127.0.0.1", port)).await.is_err() {
            anyhow::ensure!(Instant::now() < deadline, "chromedriver did not come up");
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        let profile = tempfile::tempdir()?;
        let mut caps = DesiredCapabilities::chrome();
        for arg in [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-dev-shm-usage",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--hide-scrollbars",
            "--force-device-scale-factor=1",
            "--lang=en-GB",
        ] {
            caps.add_arg(arg)?;
        }
        caps.add_arg(&format!("--user-data-dir={}", profile.path().display()))?;
        let driver = WebDriver::new(format!("http://127.0.0.1:{port}"), caps).await?;
        // whatever the policy of a page refuses is noted on it
        let watch = "window.refusedByPolicy = []; document.addEventListener('securitypolicyviolation', e => window.refusedByPolicy.push(`${e.violatedDirective} ${e.blockedURI} ${e.sourceFile}`))";
        driver.cdp().send_raw("Page.addScriptToEvaluateOnNewDocument", serde_json::json!({ "source": watch })).await?;
        let browser = Self { driver, base: base.to_owned(), _chromedriver: chromedriver, _profile: profile };
        browser.size(1280, 800).await?;
        Ok(browser)
    }

    /// Runs a story in a browser of its own and ends the browser whatever came of it; when it failed, a picture of the
    /// last page stays at `target/failed.png`.
    ///
    /// # Errors
    /// The story's.
    pub async fn with<T>(base: &str, story: impl AsyncFnOnce(&Self) -> Result<T>) -> Result<T> {
        let browser = Self::start(base).await?;
        let result = story(&browser).await;
        if result.is_err() {
            browser.picture(&crate::site::root().join("target/failed.png")).await.ok();
        }
        browser.end().await?;
        result
    }

    /// Sets the size of the view.
    ///
    /// # Errors
    /// When the browser refuses.
    pub async fn size(&self, width: u32, height: u32) -> Result<()> {
        let metrics = serde_json::json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        self.driver.cdp().send_raw("Emulation.setDeviceMetricsOverride", metrics).await?;
        Ok(())
    }

    /// Opens a path of the application.
    ///
    /// # Errors
    /// When it cannot be opened.
    pub async fn open(&self, path: &str) -> Result<()> {
        self.driver.goto(format!("{}{path}", self.base)).await?;
        Ok(())
    }

    /// Signs in on the real page.
    ///
    /// # Errors
    /// When it does not work.
    pub async fn sign_in(&self, name: &str, password: &str) -> Result<()> {
        self.open("/").await?;
        self.fill("Name", name).await?;
        self.fill("Password", password).await?;
        self.press("Sign in").await?;
        self.see("sign out").await
    }

    /// Forgets who is signed in.
    ///
    /// # Errors
    /// When the browser refuses.
    pub async fn sign_out(&self) -> Result<()> {
        Ok(self.driver.delete_all_cookies().await?)
    }

    /// The first element that shows for an XPath.
    ///
    /// # Errors
    /// When none shows in time.
    pub async fn find(&self, xpath: &str) -> Result<WebElement> {
        let deadline = Instant::now() + PATIENCE;
        loop {
            for element in self.driver.find_all(By::XPath(xpath)).await.unwrap_or_default() {
                if element.is_displayed().await.unwrap_or(false) {
                    return Ok(element);
                }
            }
            if Instant::now() > deadline {
                bail!("nothing shows for {xpath}; the page says:\n{}", self.text().await?);
            }
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
    }

    /// Text of the page.
    ///
    /// # Errors
    /// When the browser refuses.
    pub async fn text(&self) -> Result<String> {
        Ok(self.driver.find(By::Tag("body")).await?.text().await?.replace('\u{a0}', " "))
    }

    /// Waits until the page says something.
    ///
    /// # Errors
    /// When it does not in time.
    pub async fn see(&self, words: &str) -> Result<()> {
        let deadline = Instant::now() + PATIENCE;
        loop {
            let text = self.text().await.unwrap_or_default();
            if text.contains(words) {
                return Ok(());
            }
            if Instant::now() > deadline {
                bail!("the page does not say {words:?}; it says:\n{text}");
            }
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
    }

    /// The field with a label.
    ///
    /// # Errors
    /// When there is none.
    pub async fn field(&self, label: &str) -> Result<WebElement> {
        let quoted = quote(label);
        self.find(&format!(
            "//*[(self::input or self::select) and (@aria-label={quoted} or @id=//label[normalize-space(.)={quoted}]/@for)]"
        ))
        .await
    }

    /// Types into the field with a label, in place of what stood there.
    ///
    /// # Errors
    /// When there is none.
    pub async fn fill(&self, label: &str, text: &str) -> Result<()> {
        let field = self.field(label).await?;
        field.scroll_into_view().await?;
        field.send_keys(Key::Control + "a").await?;
        field.send_keys(Key::Backspace + "").await?;
        Ok(field.send_keys(text).await?)
    }

    /// What stands in the field with a label.
    ///
    /// # Errors
    /// When there is none.
    pub async fn value(&self, label: &str) -> Result<String> {
        Ok(self.field(label).await?.prop("value").await?.unwrap_or_default())
    }

    /// Waits until the page no longer says something.
    ///
    /// # Errors
    /// When it still does after a while.
    pub async fn gone(&self, words: &str) -> Result<()> {
        let deadline = Instant::now() + PATIENCE;
        while self.text().await.unwrap_or_default().contains(words) {
            anyhow::ensure!(Instant::now() < deadline, "the page still says {words:?}");
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
        Ok(())
    }

    /// Chooses an option by its value in the field with a label.
    ///
    /// # Errors
    /// When there is none.
    pub async fn choose(&self, label: &str, value: &str) -> Result<()> {
        let field = self.field(label).await?;
        let deadline = Instant::now() + PATIENCE;
        loop {
            match field.find(By::XPath(format!("./option[@value={}]", quote(value)))).await {
                Ok(option) => return Ok(option.click().await?),
                Err(_) if Instant::now() < deadline => tokio::time::sleep(Duration::from_millis(40)).await,
                Err(e) => return Err(e.into()),
            }
        }
    }

    /// Presses the button or link with a text, once it can be pressed.
    ///
    /// # Errors
    /// When there is none.
    pub async fn press(&self, words: &str) -> Result<()> {
        let quoted = quote(words);
        let element = self
            .find(&format!(
                "//*[(self::button or self::a) and not(@disabled) and contains(normalize-space(translate(., '\u{a0}', ' ')), {quoted})]"
            ))
            .await?;
        Self::press_at_rest(&element).await
    }

    /// Presses an element once it stands still: one that moves while the page still fills would be missed.
    async fn press_at_rest(element: &WebElement) -> Result<()> {
        element.scroll_into_view().await?;
        let deadline = Instant::now() + Duration::from_secs(2);
        let mut before = element.rect().await?;
        loop {
            tokio::time::sleep(Duration::from_millis(50)).await;
            let now = element.rect().await?;
            let still = (now.x - before.x).abs() < 0.5 && (now.y - before.y).abs() < 0.5;
            if still || Instant::now() > deadline {
                return Ok(element.click().await?);
            }
            before = now;
        }
    }

    /// Presses the button that is called so for those who hear it.
    ///
    /// # Errors
    /// When there is none.
    pub async fn press_label(&self, label: &str) -> Result<()> {
        let element = self.find(&format!("//button[@aria-label={}]", quote(label))).await?;
        Self::press_at_rest(&element).await
    }

    /// Chooses among radio buttons by their value.
    ///
    /// # Errors
    /// When there is none.
    pub async fn pick(&self, value: &str) -> Result<()> {
        Self::press_at_rest(&self.find(&format!("//input[@type='radio' and @value={}]", quote(value))).await?).await
    }

    /// Ticks the box that says something.
    ///
    /// # Errors
    /// When there is none.
    pub async fn tick(&self, words: &str) -> Result<()> {
        let quoted = quote(words);
        Self::press_at_rest(&self.find(&format!("//label[input[@type='checkbox'] and contains(normalize-space(.), {quoted})]")).await?)
            .await
    }

    /// Presses a button, again if need be, until the page no longer says something.
    ///
    /// # Errors
    /// When it still does after a while.
    pub async fn press_until(&self, words: &str, gone: &str) -> Result<()> {
        let deadline = Instant::now() + PATIENCE;
        while self.text().await.unwrap_or_default().contains(gone) {
            anyhow::ensure!(Instant::now() < deadline, "the page still says {gone:?}");
            self.press(words).await?;
            tokio::time::sleep(Duration::from_millis(200)).await;
        }
        Ok(())
    }

    /// Presses a button of the open dialog.
    ///
    /// # Errors
    /// When there is none.
    pub async fn press_in_dialog(&self, words: &str) -> Result<()> {
        Ok(self.find(&format!("//*[@role='dialog']//button[contains(normalize-space(.), {})]", quote(words))).await?.click().await?)
    }

    /// Whether the button with a text cannot be pressed.
    ///
    /// # Errors
    /// When there is none.
    pub async fn is_disabled(&self, words: &str) -> Result<bool> {
        Ok(!self.find(&format!("//button[contains(normalize-space(.), {})]", quote(words))).await?.is_enabled().await?)
    }

    /// Presses Escape.
    ///
    /// # Errors
    /// When the browser refuses.
    pub async fn escape(&self) -> Result<()> {
        Ok(self.driver.action_chain().send_keys(Key::Escape + "").perform().await?)
    }

    /// Path of the page.
    ///
    /// # Errors
    /// When the browser refuses.
    pub async fn path(&self) -> Result<String> {
        Ok(self.driver.current_url().await?.path().to_owned())
    }

    /// Gives a file to the file field with a label.
    ///
    /// # Errors
    /// When there is none.
    pub async fn upload(&self, label: &str, file: &Path) -> Result<()> {
        // the input itself is never shown
        let xpath = format!("//input[@type='file' and @aria-label={}]", quote(label));
        let deadline = Instant::now() + PATIENCE;
        let field = loop {
            match self.driver.find(By::XPath(xpath.as_str())).await {
                Ok(field) => break field,
                Err(e) if Instant::now() > deadline => return Err(e.into()),
                Err(_) => tokio::time::sleep(Duration::from_millis(40)).await,
            }
        };
        Ok(field.send_keys(file.display().to_string()).await?)
    }

    /// Follows a download link and waits until its file is there, whole.
    ///
    /// # Errors
    /// When no file comes.
    pub async fn download(&self, words: &str, into: &Path) -> Result<PathBuf> {
        let before = files(into)?;
        let behaviour = serde_json::json!({ "behavior": "allow", "downloadPath": into.display().to_string() });
        self.driver.cdp().send_raw("Browser.setDownloadBehavior", behaviour).await?;
        self.press(words).await?;
        let deadline = Instant::now() + PATIENCE;
        loop {
            let new = files(into)?.into_iter().find(|f| !before.contains(f) && f.extension().is_none_or(|e| e != "crdownload"));
            if let Some(file) = new {
                return Ok(file);
            }
            anyhow::ensure!(Instant::now() < deadline, "nothing was downloaded by {words:?}");
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
    }

    /// Saves a picture of the view.
    ///
    /// # Errors
    /// When it cannot be written.
    pub async fn picture(&self, file: &Path) -> Result<()> {
        Ok(self.driver.screenshot(file).await?)
    }

    /// What axe-core finds on the page, and what the page's policy refused: nothing, when all is well. `enhanced` asks for the contrast of level AAA besides.
    ///
    /// # Errors
    /// When axe-core cannot run.
    pub async fn axe(&self, axe: &str, enhanced: bool) -> Result<Vec<String>> {
        self.driver.execute(axe, Vec::new()).await?;
        let run = "const done = arguments[arguments.length - 1]; axe.run(document, arguments[0] ? { rules: { 'color-contrast-enhanced': { enabled: true } } } : {}).then(r => done(r.violations.map(v => v.id + ': ' + v.help + ' ' + v.nodes.map(n => n.html.slice(0, 160)).slice(0, 3).join(' | '))), e => done(['axe failed: ' + e]));";
        let result = self.driver.execute_async(run, vec![serde_json::json!(enhanced)]).await?;
        let mut found: Vec<String> = result.convert()?;
        let refused: Vec<String> = self.driver.execute("return window.refusedByPolicy", Vec::new()).await?.convert()?;
        found.extend(refused.into_iter().map(|r| format!("refused by the policy of the page: {r}")));
        Ok(found)
    }

    /// Ends the browser.
    ///
    /// # Errors
    /// When it refuses.
    pub async fn end(self) -> Result<()> {
        Ok(self.driver.quit().await?)
    }
}

fn files(folder: &Path) -> Result<Vec<PathBuf>> {
    Ok(std::fs::read_dir(folder)?.map(|e| e.map(|e| e.path())).collect::<Result<_, _>>()?)
}

/// A text as an XPath string.
fn quote(text: &str) -> String {
    if text.contains('\'') { format!("\"{text}\"") } else { format!("'{text}'") }
}
