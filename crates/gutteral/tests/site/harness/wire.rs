//! A wire between browser and server that can be cut, or lose every answer to a form after the server has done its work.

use std::net::SocketAddr;
use std::sync::Arc;
use std::sync::atomic::{AtomicU8, AtomicU32, Ordering};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};

#[derive(Clone, Copy, PartialEq)]
#[repr(u8)]
pub enum Mode {
    /// Everything passes.
    Whole,
    /// Nothing passes.
    Cut,
    /// Posts arrive, their answers do not.
    LosesAnswers,
}

pub struct Wire {
    pub base: String,
    mode: Arc<AtomicU8>,
    /// Answers lost so far.
    pub lost: Arc<AtomicU32>,
}

impl Wire {
    pub async fn to(server: SocketAddr) -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let base = format!("http://{}", listener.local_addr().unwrap());
        let mode = Arc::new(AtomicU8::new(Mode::Whole as u8));
        let lost = Arc::new(AtomicU32::new(0));
        let shared = (mode.clone(), lost.clone());
        tokio::spawn(async move {
            while let Ok((client, _)) = listener.accept().await {
                tokio::spawn(carry(client, server, shared.clone()));
            }
        });
        Self { base, mode, lost }
    }

    pub fn set(&self, mode: Mode) {
        self.mode.store(mode as u8, Ordering::SeqCst);
    }
}

async fn carry(mut client: TcpStream, server: SocketAddr, (mode, lost): (Arc<AtomicU8>, Arc<AtomicU32>)) {
    let is = |m: Mode| mode.load(Ordering::SeqCst) == m as u8;
    if is(Mode::Cut) {
        return;
    }
    let Ok(mut server) = TcpStream::connect(server).await else { return };
    let (mut up, mut down, mut posting) = (vec![0; 64 * 1024], vec![0; 64 * 1024], false);
    loop {
        tokio::select! {
            n = client.read(&mut up) => {
                let n = n.unwrap_or(0);
                if n == 0 || is(Mode::Cut) { return; }
                if up.starts_with(b"POST ") { posting = true; } else if up.starts_with(b"GET ") { posting = false; }
                if server.write_all(&up[..n]).await.is_err() { return; }
            }
            n = server.read(&mut down) => {
                let n = n.unwrap_or(0);
                if n > 0 && posting && is(Mode::LosesAnswers) {
                    lost.fetch_add(1, Ordering::SeqCst);
                    return;
                }
                if n == 0 || is(Mode::Cut) { return; }
                if client.write_all(&down[..n]).await.is_err() { return; }
            }
        }
    }
}
