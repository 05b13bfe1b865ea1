//! A private PostgreSQL cluster on loopback, from Debian's server package; runs as root and as a plain user.
//!
//! Its folder belongs to one process at a time. A server that an earlier process left running is recognized and stopped
//! before anything else is done with the folder; one that dies is started again.

use anyhow::{Context, Result, bail};
use std::fs::{self, File};
use std::io::Write;
use std::net::{Ipv4Addr, TcpListener};
use std::os::unix::fs::{MetadataExt, OpenOptionsExt, PermissionsExt};
use std::os::unix::process::CommandExt;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::Duration;

/// Role that owns the tables.
const OWNER: &str = "gutteral";
/// Role the application serves as: owns nothing, and is neither superuser nor exempt from row-level security.
const SERVING: &str = "gutteral_app";
/// Superuser of the private cluster.
const ADMIN: &str = "cluster";
/// Who may come in: from this machine, with the cluster's secret.
const WAYS_IN: &str = "host all all 127.0.0.1/32 scram-sha-256\n";

/// A cluster's folder, claimed by this process until dropped or the process ends, however it ends.
pub struct Home {
    path: PathBuf,
    data: PathBuf,
    bin: PathBuf,
    _lock: File,
}

/// A running private cluster; stopped when dropped.
pub struct Cluster {
    home: Home,
    port: u16,
    secret: String,
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

/// Where the programs of the newest server installed are, in Debian's folder.
///
/// # Errors
/// Where none is installed.
pub fn server_binaries() -> Result<PathBuf> {
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

impl Home {
    /// Claims a folder, made where there is none, and stops a server that somebody left running in it.
    ///
    /// # Errors
    /// In words: no server installed, the folder cannot be made, another process holds it, or what runs there cannot be
    /// stopped.
    pub fn claim(wanted: &Path) -> Result<Self> {
        let bin = server_binaries()?;
        let path = reachable(wanted)?;
        let at = path.join("lock");
        let lock = File::options().read(true).write(true).create(true).truncate(false).open(&at);
        let mut lock = lock.with_context(|| format!("cannot open {}", at.display()))?;
        if lock.try_lock().is_err() {
            let by = fs::read_to_string(&at).unwrap_or_default();
            bail!("{} is in use by another gutteral (process {}): stop that one first", path.display(), by.trim());
        }
        lock.set_len(0)?;
        write!(lock, "{}", std::process::id())?;
        let home = Self { data: path.join("postgres"), path, bin, _lock: lock };
        if home.running() {
            println!("  a database was left running here: stopping it first");
            home.stop()?;
        }
        Ok(home)
    }

    /// Removes the cluster.
    ///
    /// # Errors
    /// When the folder cannot be removed.
    pub fn clear(&self) -> Result<()> {
        for gone in [self.data.clone(), self.unfinished()] {
            if gone.exists() {
                fs::remove_dir_all(&gone).with_context(|| format!("cannot remove {}", gone.display()))?;
            }
        }
        Ok(())
    }

    /// Where a cluster is made before it is whole.
    fn unfinished(&self) -> PathBuf {
        self.path.join("postgres.unfinished")
    }

    /// Whether a server runs on this folder: the process its lock file names is there and no zombie.
    fn running(&self) -> bool {
        let noted = fs::read_to_string(self.data.join("postmaster.pid")).unwrap_or_default();
        let Some(pid) = noted.lines().next().and_then(|l| l.trim().parse::<u32>().ok()) else { return false };
        let proc = |what: &str| fs::read_to_string(format!("/proc/{pid}/{what}")).unwrap_or_default();
        let zombie = proc("stat").rsplit_once(") ").is_some_and(|(_, rest)| rest.starts_with('Z'));
        // After a restart of the machine the number may be somebody else's.
        proc("cmdline").contains("postgres") && !zombie
    }

    fn stop(&self) -> Result<()> {
        if !self.running() {
            return Ok(());
        }
        let mut command = server_command(&self.bin.join("pg_ctl"));
        command.arg("-D").arg(&self.data).args(["-w", "-m", "fast", "stop"]);
        // A group of its own: a second Ctrl-C must not kill what stops the database.
        command.process_group(0);
        run(command, "pg_ctl stop")
    }

    /// The secret of the cluster's roles, made where there is none.
    fn secret(&self) -> Result<String> {
        let at = self.path.join("secret");
        let kept = fs::read_to_string(&at).unwrap_or_default();
        if kept.trim().len() >= 32 {
            return Ok(kept.trim().to_owned());
        }
        let secret = format!("{}{}", uuid::Uuid::new_v4().simple(), uuid::Uuid::new_v4().simple());
        let mut file = File::options().write(true).create(true).truncate(true).mode(0o600).open(&at)?;
        file.write_all(secret.as_bytes())?;
        file.sync_all()?;
        Ok(secret)
    }

    /// Makes the cluster where there is none. It has its name only when it is whole.
    fn make(&self) -> Result<()> {
        if self.data.join("PG_VERSION").exists() {
            return Ok(());
        }
        println!("  making a private PostgreSQL cluster in {}", self.data.display());
        self.clear()?;
        let new = self.unfinished();
        fs::create_dir_all(&new)?;
        fs::set_permissions(&new, fs::Permissions::from_mode(0o700))?;
        if is_root() {
            let mut chown = Command::new("chown");
            chown.arg("postgres:").arg(&new);
            run(chown, "chown")?;
        }
        let mut initdb = server_command(&self.bin.join("initdb"));
        initdb.arg("-D").arg(&new).args(["-U", ADMIN, "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8"]);
        initdb.current_dir("/");
        run(initdb, "initdb")?;
        Ok(fs::rename(new, &self.data)?)
    }
}

impl Cluster {
    /// Makes the cluster in `home` if there is none, and starts it on a free port.
    ///
    /// # Errors
    /// In words: the cluster cannot be made, or the server does not start (with its log).
    pub fn start(home: Home, durability: Durability) -> Result<Self> {
        let secret = home.secret()?;
        home.make()?;
        let port = TcpListener::bind((Ipv4Addr::LOCALHOST, 0))?.local_addr()?.port();
        let mut cluster = Self { home, port, secret, stopped: true };
        cluster.start_again(durability)?;
        cluster.prepare_roles()?;
        Ok(cluster)
    }

    /// Starts the server on the port it has (again, after [`Cluster::stop`]).
    ///
    /// # Errors
    /// When the server does not start, with the end of its log.
    pub fn start_again(&mut self, durability: Durability) -> Result<()> {
        let log = self.home.data.join("server.log");
        let fast = match durability {
            Durability::Durable => "",
            Durability::ThrowAway => " -c fsync=off -c synchronous_commit=off -c full_page_writes=off",
        };
        let options = format!(
            "-p {} -c listen_addresses=127.0.0.1 -c unix_socket_directories= -c max_connections=200 \
             -c shared_buffers=64MB{fast}",
            self.port
        );
        let mut command = server_command(&self.home.bin.join("pg_ctl"));
        command.arg("-D").arg(&self.home.data).arg("-l").arg(&log);
        command.args(["-w", "-t", "60", "-o", &options, "start"]);
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

    /// Starts the server again whenever it has died. Never returns.
    pub async fn supervise(&mut self, durability: Durability) -> std::convert::Infallible {
        let mut told = String::new();
        loop {
            tokio::time::sleep(Duration::from_millis(500)).await;
            if self.home.running() {
                told.clear();
                continue;
            }
            let again = tokio::task::block_in_place(|| self.start_again(durability));
            let now =
                again.err().map_or_else(|| "The database had died and was started again".into(), |e| format!("{e:#}"));
            if now != told {
                let _ = writeln!(std::io::stderr(), "{now}");
                told = now;
            }
        }
    }

    /// Stops the server, at once but cleanly.
    ///
    /// # Errors
    /// When the server cannot be told.
    pub fn stop(&mut self) -> Result<()> {
        if self.stopped {
            return Ok(());
        }
        self.home.stop()?;
        self.stopped = true;
        Ok(())
    }

    /// Stops the server and removes the cluster.
    ///
    /// # Errors
    /// When the server cannot be told or the folder cannot be removed.
    pub fn discard(mut self) -> Result<()> {
        self.stop()?;
        self.home.clear()
    }

    /// Runs one statement as the cluster's superuser.
    ///
    /// # Errors
    /// When the server refuses it.
    pub fn admin(&self, database: &str, sql: &str) -> Result<()> {
        let mut command = Command::new(self.home.bin.join("psql"));
        command.args(["-X", "-q", "-v", "ON_ERROR_STOP=1", "-h", "127.0.0.1", "-U", ADMIN, "-d", database, "-c", sql]);
        command.args(["-p", &self.port.to_string()]).env("PGPASSWORD", &self.secret);
        run(command, "psql")
    }

    /// Roles with the cluster's secret, and nobody without it.
    fn prepare_roles(&self) -> Result<()> {
        for (role, may) in [(OWNER, "login createdb"), (SERVING, "login")] {
            self.admin("postgres", &format!(
                "do $$ begin if not exists (select from pg_roles where rolname = '{role}') then create role {role} {may}; end if; end $$"
            ))?;
        }
        let ways = self.home.data.join("pg_hba.conf");
        if fs::read_to_string(&ways).is_ok_and(|text| text == WAYS_IN) {
            return Ok(());
        }
        for role in [OWNER, SERVING, ADMIN] {
            self.admin("postgres", &format!("alter role {role} password '{}'", self.secret))?;
        }
        fs::write(&ways, WAYS_IN)?;
        self.admin("postgres", "select pg_reload_conf()")
    }

    /// Makes a database owned by the tables' owner if it is missing.
    ///
    /// # Errors
    /// When the server refuses.
    pub fn database(&self, name: &str) -> Result<()> {
        if self.admin(name, "select 1").is_err() {
            self.admin("postgres", &format!("create database {name} owner {OWNER}"))?;
        }
        Ok(())
    }

    /// Address of a database, as the role that serves.
    #[must_use]
    pub fn url(&self, database: &str) -> String {
        self.url_as(SERVING, database)
    }

    /// Address of a database, as the owner of its tables.
    #[must_use]
    pub fn owner_url(&self, database: &str) -> String {
        self.url_as(OWNER, database)
    }

    fn url_as(&self, role: &str, database: &str) -> String {
        format!("postgres://{role}:{}@127.0.0.1:{}/{database}", self.secret, self.port)
    }
}

impl Drop for Cluster {
    fn drop(&mut self) {
        if let Err(e) = self.stop() {
            let _ = writeln!(std::io::stderr(), "the database could not be stopped: {e}");
        }
    }
}
