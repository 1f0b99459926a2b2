//! Devices on the network: a socket each, and the driver that talks to it.
//!
//! The stand-in understands the bytes of its model's commands, by TCP or UDP, and answers with what the
//! command says it should. It also answers a question about itself, for devices that give feedback:
//! `?input` and a carriage return gives `input=NAME` and a carriage return, where NAME is what the device
//! itself calls its input. Bytes that it does not understand are answered with `?` and a carriage return.

use crate::driver::{DriverError, PATIENCE};
use kestrel_core::id::DeviceId;
use kestrel_core::signal::ip::{IpCommand, Transport};
use std::net::SocketAddr;
use std::sync::Arc;
use std::time::Duration;
use tokio::io::{AsyncRead, AsyncReadExt, AsyncWrite, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream, UdpSocket};

/// What a device makes of bytes: what it answers, none where it does not understand them.
pub type Understand = dyn Fn(DeviceId, &[u8]) -> Option<Vec<u8>> + Send + Sync;

/// The question for the input.
pub const ASK_INPUT: &[u8] = b"?input\r";

/// More bytes than any command has.
const MAX_BYTES: usize = 16_384;

/// After this long without another byte a command is taken to be whole, in real time.
const PAUSE: Duration = Duration::from_millis(30);

/// One device on the network.
#[derive(Clone)]
pub struct Device {
    id: DeviceId,
    understand: Arc<Understand>,
}

impl Device {
    /// A device that understands through `understand`.
    pub fn new(id: DeviceId, understand: Arc<Understand>) -> Self {
        Self { id, understand }
    }

    /// Serves both sockets until the task is aborted.
    pub async fn listen(self, tcp: TcpListener, udp: UdpSocket) {
        let datagrams = async {
            let mut buffer = vec![0; 2_048];
            while let Ok(length) = udp.recv(&mut buffer).await {
                let _ = (self.understand)(self.id, &buffer[..length]);
            }
        };
        let connections = async {
            let mut tasks = tokio::task::JoinSet::new();
            loop {
                match tcp.accept().await {
                    Ok((stream, _)) => {
                        let _ = stream.set_nodelay(true);
                        let (read, write) = stream.into_split();
                        tasks.spawn(self.clone().serve(read, write));
                    }
                    Err(_) => tokio::time::sleep(Duration::from_millis(100)).await,
                }
                while tasks.try_join_next().is_some() {}
            }
        };
        tokio::join!(datagrams, connections);
    }

    /// Serves one connection until its end.
    pub async fn serve(self, mut read: impl AsyncRead + Unpin, mut write: impl AsyncWrite + Unpin) {
        let mut pending: Vec<u8> = Vec::new();
        let mut buffer = vec![0; 1_024];
        loop {
            let waiting = !pending.is_empty();
            let more = async {
                if waiting {
                    tokio::time::timeout(PAUSE, read.read(&mut buffer)).await.ok()
                } else {
                    Some(read.read(&mut buffer).await)
                }
            };
            match more.await {
                Some(Ok(0)) if waiting => {
                    // The sender has closed its side: what has come is the command.
                    let _ = (self.understand)(self.id, &pending);
                    return;
                }
                Some(Ok(length)) if length > 0 => {
                    pending.extend_from_slice(&buffer[..length]);
                    if pending.len() > MAX_BYTES {
                        return;
                    }
                }
                Some(_) => return,
                None => {
                    let answer = (self.understand)(self.id, &pending).unwrap_or_else(|| b"?\r".to_vec());
                    pending.clear();
                    if write.write_all(&answer).await.is_err() || write.flush().await.is_err() {
                        return;
                    }
                }
            }
        }
    }
}

/// Where a device listens.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Address {
    /// By TCP.
    pub tcp: SocketAddr,
    /// By UDP.
    pub udp: SocketAddr,
}

/// Sends a command and checks the answer; gives the answer's bytes.
///
/// # Errors
/// Where nobody listens, nothing comes back though something should, or the answer is another one.
pub async fn send(address: Address, command: &IpCommand) -> Result<Vec<u8>, DriverError> {
    let bytes = command.bytes().map_err(|error| DriverError::Refused(error.to_string()))?;
    let datagram =
        matches!(command, IpCommand::WakeOnLan { .. } | IpCommand::Payload { transport: Transport::Udp, .. });
    if datagram {
        let unreachable = |error: std::io::Error| DriverError::DeviceUnreachable {
            address: address.udp.to_string(),
            why: error.to_string(),
        };
        let socket = UdpSocket::bind("127.0.0.1:0").await.map_err(unreachable)?;
        socket.send_to(&bytes, address.udp).await.map_err(unreachable)?;
        return Ok(vec![]);
    }
    let answer = ask(address.tcp, &bytes, command.expected().is_some()).await?;
    match command.expected() {
        Some(expected) if answer != expected => {
            Err(DriverError::Answer { expected: printable(&expected), got: printable(&answer) })
        }
        _ => Ok(answer),
    }
}

/// Sends bytes over TCP and waits for an answer, where one is due (`answers`).
///
/// # Errors
/// Where nobody listens or nothing comes back.
pub async fn ask(address: SocketAddr, bytes: &[u8], answers: bool) -> Result<Vec<u8>, DriverError> {
    let unreachable = |why: String| DriverError::DeviceUnreachable { address: address.to_string(), why };
    let talk = async {
        let mut stream = TcpStream::connect(address).await?;
        stream.set_nodelay(true)?;
        stream.write_all(bytes).await?;
        stream.flush().await?;
        if !answers {
            // Some devices act only once the sender has closed its side.
            stream.shutdown().await?;
            return Ok(vec![]);
        }
        let mut answer = vec![0; MAX_BYTES];
        let length = stream.read(&mut answer).await?;
        answer.truncate(length);
        Ok::<_, std::io::Error>(answer)
    };
    match tokio::time::timeout(PATIENCE, talk).await {
        Ok(Ok(answer)) if answer.is_empty() && answers => Err(DriverError::DeviceClosed),
        Ok(Ok(answer)) => Ok(answer),
        Ok(Err(error)) => Err(unreachable(error.to_string())),
        Err(_) => Err(DriverError::DeviceSilent(PATIENCE.as_secs())),
    }
}

/// Bytes as a person reads them.
#[must_use]
pub fn printable(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).escape_debug().to_string()
}
