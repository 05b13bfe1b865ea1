//! A private PostgreSQL cluster on loopback, from Debian's server package; runs as root and as a plain user.

use anyhow::{Context, Result, bail};
use std::fs;
use std::net::{Ipv4Addr, TcpListener};
use std::os::unix::fs::{MetadataExt, PermissionsExt};
use std::os::unix::process::CommandExt;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// Role the application connects as: owner of its database, and neither superuser nor exempt from row-level security.
const ROLE: &str = "gutteral";
/// Superuser of the private cluster.
const ADMIN: &str = "cluster";

/// A running private cluster; stopped when dropped.
pub struct Cluster {
    bin: PathBuf,
    data: PathBuf,
    port: u16,
    stopped: bool,
}

/// How much a cluster must survive.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Durability {
    /// Survives a power cut.
    Durable,
    /// Throw-away: fast, and lost with the machine.
    ThrowAway,
}

fn is_root() -> bool {
    fs::metadata("/proc/self").is_ok_and(|m| m.uid() == 0)
}

/// Newest server installed under Debian's folder.
fn server_binaries() -> Result<PathBuf> {
    let mut found: Vec<(u32, PathBuf)> = fs::read_dir("/usr/lib/postgresql")
        .into_iter()
        .flatten()
        .flatten()
        .filter_map(|e| Some((e.file_name().to_str()?.parse().ok()?, e.path().join("bin"))))
        .filter(|(_, bin)| bin.join("initdb").exists())
        .collect();
    found.sort();
    match found.pop() {
        Some((_, bin)) => Ok(bin),
        None => bail!("no PostgreSQL server found; install Debian’s package postgresql"),
    }
}

/// A command of the server's, as the user it accepts: PostgreSQL refuses to run as root.
fn server_command(program: &Path) -> Command {
    if is_root() {
        let mut command = Command::new("runuser");
        command.args(["-u", "postgres", "--"]).arg(program);
        command
    } else {
        Command::new(program)
    }
}

fn run(mut command: Command, what: &str) -> Result<()> {
    let output = command.stdin(Stdio::null()).output().with_context(|| format!("cannot run {what}"))?;
    if !output.status.success() {
        bail!("{what} failed: {}", String::from_utf8_lossy(&output.stderr).trim());
    }
    Ok(())
}

/// The folder a cluster may live in: as root the server runs as another user, who must be able to reach it.
fn reachable(wanted: &Path) -> Result<PathBuf> {
    fs::create_dir_all(wanted).with_context(|| format!("cannot make {}", wanted.display()))?;
    let full = fs::canonicalize(wanted)?;
    if !is_root() {
        return Ok(full);
    }
    let blocked = full.ancestors().skip(1).find(|p| fs::metadata(p).is_ok_and(|m| m.permissions().mode() & 0o001 == 0));
    let Some(blocked) = blocked else { return Ok(full) };
    let name: String =
        full.to_string_lossy().chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    let elsewhere = Path::new("/var/lib/gutteral").join(name.trim_matches('-'));
    println!("  {} is closed to other users, so the database lives in {}", blocked.display(), elsewhere.display());
    fs::create_dir_all(&elsewhere).with_context(|| format!("cannot make {}", elsewhere.display()))?;
    Ok(elsewhere)
}

impl Cluster {
    /// Makes the cluster in `home` if there is none, and starts it on a free port.
    ///
    /// # Errors
    /// In words: no server installed, the folder cannot be made, or the server does not start (with its log).
    pub fn start(home: &Path, durability: Durability) -> Result<Self> {
        let bin = server_binaries()?;
        let home = reachable(home)?;
        let data = home.join("postgres");
        if !data.join("PG_VERSION").exists() {
            println!("  making a private PostgreSQL cluster in {}", data.display());
            make(&bin, &data)?;
        }
        let port = TcpListener::bind((Ipv4Addr::LOCALHOST, 0))?.local_addr()?.port();
        let mut cluster = Self { bin, data, port, stopped: true };
        cluster.start_again(durability)?;
        cluster.prepare_role()?;
        Ok(cluster)
    }

    /// Starts the server on the port it has (again, after [`Cluster::stop`]).
    ///
    /// # Errors
    /// When the server does not start, with the end of its log.
    pub fn start_again(&mut self, durability: Durability) -> Result<()> {
        let log = self.data.join("server.log");
        let fast = match durability {
            Durability::Durable => "",
            Durability::ThrowAway => " -c fsync=off -c synchronous_commit=off -c full_page_writes=off",
        };
        let options = format!(
            "-p {} -c listen_addresses=127.0.0.1 -c unix_socket_directories= -c max_connections=200 \
             -c shared_buffers=64MB{fast}",
            self.port
        );
        let mut command = server_command(&self.bin.join("pg_ctl"));
        command.arg("-D").arg(&self.data).arg("-l").arg(&log).args(["-w", "-t", "60", "-o", &options, "start"]);
        // The server inherits these: a pipe it kept open would never close for whoever reads our output.
        let status = command.stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null()).status()?;
        if !status.success() {
            let text = fs::read_to_string(&log).unwrap_or_default();
            let end: Vec<&str> = text.lines().rev().take(6).collect();
            bail!("PostgreSQL did not start:\n{}", end.into_iter().rev().collect::<Vec<_>>().join("\n"));
        }
        self.stopped = false;
        Ok(())
    }

    /// Stops the server, at once but cleanly.
    ///
    /// # Errors
    /// When the server cannot be told.
    pub fn stop(&mut self) -> Result<()> {
        if self.stopped {
            return Ok(());
        }
        let mut command = server_command(&self.bin.join("pg_ctl"));
        command.arg("-D").arg(&self.data).args(["-w", "-m", "fast", "stop"]);
        // A group of its own: a second Ctrl-C must not kill what stops the database.
        command.process_group(0);
        run(command, "pg_ctl stop")?;
        self.stopped = true;
        Ok(())
    }

    /// Runs one statement as the cluster's superuser.
    ///
    /// # Errors
    /// When the server refuses it.
    pub fn admin(&self, database: &str, sql: &str) -> Result<()> {
        let mut command = Command::new(self.bin.join("psql"));
        command.args(["-X", "-q", "-v", "ON_ERROR_STOP=1", "-h", "127.0.0.1", "-U", ADMIN, "-d", database, "-c", sql]);
        command.args(["-p", &self.port.to_string()]);
        run(command, "psql")
    }

    fn prepare_role(&self) -> Result<()> {
        self.admin("postgres", &format!(
            "do $$ begin if not exists (select from pg_roles where rolname = '{ROLE}') then create role {ROLE} login createdb; end if; end $$"
        ))
    }

    /// Makes a database owned by the application's role if it is missing.
    ///
    /// # Errors
    /// When the server refuses.
    pub fn database(&self, name: &str) -> Result<String> {
        if self.admin(name, "select 1").is_err() {
            self.admin("postgres", &format!("create database {name} owner {ROLE}"))?;
        }
        Ok(self.url(name))
    }

    /// Address of a database, as the application's role.
    #[must_use]
    pub fn url(&self, database: &str) -> String {
        format!("postgres://{ROLE}@127.0.0.1:{}/{database}", self.port)
    }
}

impl Drop for Cluster {
    fn drop(&mut self) {
        if let Err(e) = self.stop() {
            eprintln!("the database could not be stopped: {e}");
        }
    }
}

fn make(bin: &Path, data: &Path) -> Result<()> {
    fs::create_dir_all(data)?;
    fs::set_permissions(data, fs::Permissions::from_mode(0o700))?;
    if is_root() {
        let mut chown = Command::new("chown");
        chown.arg("postgres:").arg(data);
        run(chown, "chown")?;
    }
    let mut initdb = server_command(&bin.join("initdb"));
    initdb.arg("-D").arg(data).args(["-U", ADMIN, "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8"]);
    initdb.current_dir("/");
    run(initdb, "initdb")
}

/// Removes a stopped cluster.
///
/// # Errors
/// When the folder cannot be removed.
pub fn remove(home: &Path) -> Result<()> {
    let home = reachable(home)?;
    let data = home.join("postgres");
    if data.exists() {
        fs::remove_dir_all(&data).with_context(|| format!("cannot remove {}", data.display()))?;
    }
    Ok(())
}
