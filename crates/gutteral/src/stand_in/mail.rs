//! A mail server that is none: it takes every letter and hands it to whoever runs it.

use anyhow::{Context, Result, bail};
use std::net::SocketAddr;
use tokio::io::{AsyncBufReadExt, AsyncWriteExt, BufReader};
use tokio::net::{TcpListener, TcpStream};

/// Longest letter taken, bytes.
const LONGEST: usize = 1 << 20;

/// Where to listen, from the command line.
///
/// # Errors
/// What makes no sense of it.
pub fn arguments(words: &[&str]) -> Result<SocketAddr> {
    match words {
        [] => Ok(SocketAddr::from(([127, 0, 0, 1], 7425))),
        ["--addr", at] => at.parse().with_context(|| format!("--addr is like 127.0.0.1:7425, got “{at}”")),
        [other, ..] => bail!("{other} is unknown; known is --addr"),
    }
}

/// The setting by which letters are sent to it.
#[must_use]
pub fn address(at: SocketAddr) -> String {
    format!("smtp://{at}")
}

/// Takes letters until it is dropped.
///
/// # Errors
/// Where it cannot listen any more.
pub async fn serve(listener: TcpListener, take: impl Fn(String) + Clone + Send + 'static) -> Result<()> {
    loop {
        let (caller, _) = listener.accept().await?;
        let take = take.clone();
        // Whoever hangs up in the middle is no loss.
        tokio::spawn(async move { drop(answer(caller, take).await) });
    }
}

/// One caller: as much of SMTP (RFC 5321) as sending a letter needs.
async fn answer(mut caller: TcpStream, take: impl Fn(String)) -> Result<()> {
    let (read, mut write) = caller.split();
    let mut lines = BufReader::new(read).lines();
    write.write_all(b"220 gutteral stand-in\r\n").await?;
    while let Some(line) = lines.next_line().await? {
        let word = line.split([' ', ':']).next().unwrap_or_default().to_ascii_uppercase();
        let said = match word.as_str() {
            "QUIT" => {
                write.write_all(b"221 bye\r\n").await?;
                return Ok(());
            }
            "DATA" => {
                write.write_all(b"354 go on\r\n").await?;
                let mut letter = String::new();
                while let Some(line) = lines.next_line().await?.filter(|l| l != ".") {
                    // A line that begins with a dot came with one more.
                    letter.push_str(line.strip_prefix('.').unwrap_or(&line));
                    letter.push('\n');
                    if letter.len() > LONGEST {
                        bail!("more than a letter");
                    }
                }
                take(letter);
                "250 taken\r\n"
            }
            "HELO" | "EHLO" | "MAIL" | "RCPT" | "RSET" | "NOOP" => "250 ok\r\n",
            _ => "502 not spoken here\r\n",
        };
        write.write_all(said.as_bytes()).await?;
    }
    Ok(())
}
