//! How drivers and stand-ins reach each other: real sockets on loopback, or pipes in memory for a clock
//! that is faster than sockets can follow (a paused clock and real sockets do not mix).

use std::collections::BTreeMap;
use std::io;
use std::net::{Ipv4Addr, SocketAddr};
use std::sync::{Arc, Mutex, PoisonError};
use tokio::io::{AsyncRead, AsyncWrite};
use tokio::net::{TcpListener, TcpStream, UdpSocket};
use tokio::sync::mpsc;

/// Both directions of a connection.
pub trait Duplex: AsyncRead + AsyncWrite + Send + Unpin {}

impl<T: AsyncRead + AsyncWrite + Send + Unpin> Duplex for T {}

/// A connection.
pub type Stream = Box<dyn Duplex>;

/// The network of a bench.
#[derive(Clone)]
pub enum Net {
    /// Loopback.
    Sockets,
    /// Memory.
    Pipes(Arc<Mutex<Pipes>>),
}

/// Who listens in memory.
#[derive(Default)]
pub struct Pipes {
    next: u16,
    streams: BTreeMap<SocketAddr, mpsc::UnboundedSender<Stream>>,
    datagrams: BTreeMap<SocketAddr, mpsc::UnboundedSender<Vec<u8>>>,
}

impl Pipes {
    fn address(&mut self) -> SocketAddr {
        self.next += 1;
        (Ipv4Addr::LOCALHOST, self.next).into()
    }
}

/// How much a pipe holds, in bytes.
const PIPE: usize = 65_536;

/// The largest datagram that is taken, in bytes.
const DATAGRAM: usize = 2_048;

/// Takes connections.
pub enum Listener {
    /// On a socket.
    Socket(TcpListener),
    /// In memory.
    Pipe(mpsc::UnboundedReceiver<Stream>),
}

impl Listener {
    /// The next connection.
    ///
    /// # Errors
    /// Where the system refuses.
    pub async fn accept(&mut self) -> io::Result<Stream> {
        match self {
            Self::Socket(listener) => {
                let (stream, _) = listener.accept().await?;
                let _ = stream.set_nodelay(true);
                Ok(Box::new(stream))
            }
            Self::Pipe(receiver) => receiver.recv().await.ok_or_else(|| io::ErrorKind::NotConnected.into()),
        }
    }
}

/// Takes datagrams.
pub enum Datagrams {
    /// On a socket.
    Socket(UdpSocket),
    /// In memory.
    Pipe(mpsc::UnboundedReceiver<Vec<u8>>),
}

impl Datagrams {
    /// The next datagram; none where the network is gone.
    pub async fn next(&mut self) -> Option<Vec<u8>> {
        match self {
            Self::Socket(socket) => {
                let mut buffer = vec![0; DATAGRAM];
                let length = socket.recv(&mut buffer).await.ok()?;
                buffer.truncate(length);
                Some(buffer)
            }
            Self::Pipe(receiver) => receiver.recv().await,
        }
    }
}

impl Net {
    /// A network in memory.
    #[must_use]
    pub fn pipes() -> Self {
        Self::Pipes(Arc::default())
    }

    /// Listens for connections on a free port.
    ///
    /// # Errors
    /// Where no socket can be had.
    pub async fn listen(&self) -> io::Result<(SocketAddr, Listener)> {
        match self {
            Self::Sockets => {
                let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, 0)).await?;
                Ok((listener.local_addr()?, Listener::Socket(listener)))
            }
            Self::Pipes(pipes) => {
                let (sender, receiver) = mpsc::unbounded_channel();
                let mut pipes = pipes.lock().unwrap_or_else(PoisonError::into_inner);
                let address = pipes.address();
                pipes.streams.insert(address, sender);
                Ok((address, Listener::Pipe(receiver)))
            }
        }
    }

    /// Listens for datagrams on a free port.
    ///
    /// # Errors
    /// Where no socket can be had.
    pub async fn datagrams(&self) -> io::Result<(SocketAddr, Datagrams)> {
        match self {
            Self::Sockets => {
                let socket = UdpSocket::bind((Ipv4Addr::LOCALHOST, 0)).await?;
                Ok((socket.local_addr()?, Datagrams::Socket(socket)))
            }
            Self::Pipes(pipes) => {
                let (sender, receiver) = mpsc::unbounded_channel();
                let mut pipes = pipes.lock().unwrap_or_else(PoisonError::into_inner);
                let address = pipes.address();
                pipes.datagrams.insert(address, sender);
                Ok((address, Datagrams::Pipe(receiver)))
            }
        }
    }

    /// Connects.
    ///
    /// # Errors
    /// Where nobody listens.
    pub async fn connect(&self, to: SocketAddr) -> io::Result<Stream> {
        match self {
            Self::Sockets => {
                let stream = TcpStream::connect(to).await?;
                let _ = stream.set_nodelay(true);
                Ok(Box::new(stream))
            }
            Self::Pipes(pipes) => {
                let (ours, theirs) = tokio::io::duplex(PIPE);
                let pipes = pipes.lock().unwrap_or_else(PoisonError::into_inner);
                let listener = pipes.streams.get(&to).ok_or(io::ErrorKind::ConnectionRefused)?;
                listener.send(Box::new(theirs)).map_err(|_| io::ErrorKind::ConnectionRefused)?;
                Ok(Box::new(ours))
            }
        }
    }

    /// Sends a datagram; nobody may be there.
    ///
    /// # Errors
    /// Where the system refuses.
    pub async fn send_datagram(&self, to: SocketAddr, bytes: &[u8]) -> io::Result<()> {
        match self {
            Self::Sockets => {
                let own: SocketAddr =
                    if to.is_ipv6() { "[::]:0" } else { "0.0.0.0:0" }.parse().map_err(io::Error::other)?;
                let socket = UdpSocket::bind(own).await?;
                socket.send_to(bytes, to).await.map(|_| ())
            }
            Self::Pipes(pipes) => {
                let pipes = pipes.lock().unwrap_or_else(PoisonError::into_inner);
                if let Some(receiver) = pipes.datagrams.get(&to) {
                    let _ = receiver.send(bytes.to_vec());
                }
                Ok(())
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use tokio::io::{AsyncReadExt, AsyncWriteExt};

    #[rstest]
    #[case::sockets(Net::Sockets)]
    #[case::pipes(Net::pipes())]
    #[tokio::test]
    async fn both_networks_carry_streams_and_datagrams(#[case] net: Net) {
        let (address, mut listener) = net.listen().await.unwrap();
        let mut ours = net.connect(address).await.unwrap();
        let mut theirs = listener.accept().await.unwrap();
        ours.write_all(b"hello").await.unwrap();
        let mut heard = [0; 5];
        theirs.read_exact(&mut heard).await.unwrap();
        assert_eq!(&heard, b"hello");
        let (address, mut datagrams) = net.datagrams().await.unwrap();
        net.send_datagram(address, b"packet").await.unwrap();
        assert_eq!(datagrams.next().await.unwrap(), b"packet");
        drop(listener);
        let port_of_nobody: SocketAddr = (Ipv4Addr::LOCALHOST, 1).into();
        assert!(Net::Sockets.connect(port_of_nobody).await.is_err());
    }
}
