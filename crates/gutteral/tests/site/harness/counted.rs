//! A wire to the database that counts what is asked over it: every statement sent, prepared or plain.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use tokio::io::{AsyncReadExt, AsyncWriteExt, copy};
use tokio::net::{TcpListener, TcpStream};

/// What a client asks before it says who it is: whether the server speaks TLS.
const TLS: [u8; 4] = 80_877_103_u32.to_be_bytes();

pub struct Counted {
    /// The database's address, through the wire.
    pub url: String,
    asked: Arc<AtomicUsize>,
}

impl Counted {
    /// A wire to the database at an address.
    pub async fn to(url: &str) -> Self {
        let (rest, path) = url.rsplit_once('/').unwrap();
        let (who, server) = rest.rsplit_once('@').unwrap();
        let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let url = format!("{who}@{}/{path}", listener.local_addr().unwrap());
        let asked = Arc::new(AtomicUsize::new(0));
        let (server, count) = (server.to_owned(), asked.clone());
        tokio::spawn(async move {
            while let Ok((client, _)) = listener.accept().await {
                let (server, count) = (server.clone(), count.clone());
                tokio::spawn(async move { pass(client, &server, &count).await });
            }
        });
        Self { url, asked }
    }

    /// Statements sent since this was last asked.
    pub fn since(&self) -> usize {
        self.asked.swap(0, Ordering::SeqCst)
    }
}

/// Giving a transaction back unchanged happens behind the answer: it would fall into whichever page is asked next.
const GIVEN_BACK: &[u8] = b"ROLLBACK";

/// Passes everything on, counting plain queries and executions of prepared ones. Ends when either side does.
async fn pass(client: TcpStream, server: &str, count: &AtomicUsize) -> std::io::Result<()> {
    let (mut from_server, mut to_server) = TcpStream::connect(server).await?.into_split();
    let (mut from_client, mut to_client) = client.into_split();
    tokio::spawn(async move { copy(&mut from_server, &mut to_client).await });
    let mut begun = false;
    loop {
        let kind = if begun { Some(from_client.read_u8().await?) } else { None };
        let length = from_client.read_u32().await?;
        let mut body = vec![0; length as usize - 4];
        from_client.read_exact(&mut body).await?;
        begun = begun || !body.starts_with(&TLS);
        if matches!(kind, Some(b'Q' | b'E')) && !body.starts_with(GIVEN_BACK) {
            count.fetch_add(1, Ordering::SeqCst);
        }
        let mut message: Vec<u8> = kind.into_iter().collect();
        message.extend_from_slice(&length.to_be_bytes());
        message.extend_from_slice(&body);
        to_server.write_all(&message).await?;
    }
}
