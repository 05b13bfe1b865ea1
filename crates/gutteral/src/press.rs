//! Printing: files in, a PDF out, by the browser that is installed. It gets a folder of its own and no
//! network; the page itself forbids scripts.

use casework::outside::OutsideError;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::process::Stdio;
use std::time::Duration;
use tokio::process::Command;

/// Where Debian puts a browser.
const USUAL: [&str; 2] = ["/usr/bin/chromium-headless-shell", "/usr/bin/chromium"];
/// How long printing may take: shorter than a task is held.
const PATIENCE: Duration = Duration::from_secs(50);
/// Largest PDF kept, bytes.
const LARGEST: u64 = 64 << 20;

/// A press.
#[derive(Debug, Clone)]
pub struct Press {
    browser: Option<PathBuf>,
}

impl Press {
    /// The browser that is said, else a usual one.
    #[must_use]
    pub fn new(said: Option<String>) -> Self {
        let usual = || USUAL.iter().map(PathBuf::from).find(|p| p.exists());
        Self { browser: said.map(PathBuf::from).or_else(usual) }
    }

    /// Prints the first of some files, which may name the others.
    ///
    /// # Errors
    /// [`OutsideError`] where there is no browser, or it does not print.
    pub async fn print(&self, files: Vec<(String, Vec<u8>)>) -> Result<Vec<u8>, OutsideError> {
        let none = OutsideError::NotSet(
            "no browser to print with: whoever runs Gutteral installs Debian’s chromium-headless-shell, or names one as \
             GUTTERAL_CHROMIUM",
        );
        let browser = self.browser.as_ref().ok_or(none)?;
        let failed = |e: std::io::Error| OutsideError::Failed(format!("printing: {e}"));
        let folder = tempfile::Builder::new().prefix("gutteral-print-").tempdir().map_err(failed)?;
        lay_out(folder.path(), files).await.map_err(failed)?;
        let out = folder.path().join("out.pdf");
        let mut child = command(browser, folder.path(), &out).spawn().map_err(failed)?;
        let Ok(ended) = tokio::time::timeout(PATIENCE, child.wait()).await else {
            let _ = child.kill().await;
            return Err(OutsideError::Away("the browser that prints took too long".into()));
        };
        ended.map_err(failed)?;
        let size = tokio::fs::metadata(&out).await.map_or(0, |m| m.len());
        if size == 0 || size > LARGEST {
            return Err(OutsideError::Failed("the browser printed nothing that can be kept".into()));
        }
        tokio::fs::read(&out).await.map_err(failed)
    }
}

async fn lay_out(folder: &Path, files: Vec<(String, Vec<u8>)>) -> std::io::Result<()> {
    tokio::fs::create_dir(folder.join("images")).await?;
    for (name, bytes) in files {
        tokio::fs::write(folder.join(name), bytes).await?;
    }
    Ok(())
}

fn command(browser: &Path, folder: &Path, out: &Path) -> Command {
    let mut command = Command::new(browser);
    command
        .args(["--headless", "--disable-gpu", "--no-first-run", "--disable-sync", "--disable-dev-shm-usage"])
        .args(["--disable-background-networking", "--disable-component-update", "--disable-quic"])
        .arg("--host-resolver-rules=MAP * ~NOTFOUND")
        .args(["--generate-pdf-document-outline", "--no-pdf-header-footer"])
        .arg(format!("--user-data-dir={}", folder.join("profile").display()))
        .arg(format!("--print-to-pdf={}", out.display()));
    // The browser's own walls need a user who is not root.
    if std::fs::metadata("/proc/self").is_ok_and(|m| m.uid() == 0) {
        command.arg("--no-sandbox");
    }
    command
        .arg(format!("file://{}", folder.join("report.html").display()))
        .env("HOME", folder)
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .kill_on_drop(true);
    command
}
