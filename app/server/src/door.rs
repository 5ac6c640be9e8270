//! The door: who stands before it, how long a connection may take, and what the name in front of it changes.

use anyhow::{Context, Result};
use axum::extract::{ConnectInfo, FromRequestParts, Request, State};
use axum::http::request::Parts;
use axum::http::{HeaderMap, Method, Uri, header};
use axum::middleware::Next;
use axum::response::Response;
use ipnet::IpNet;
use std::convert::Infallible;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::sync::{Arc, OnceLock};
use std::time::Duration;

/// Longest time in which the head of a request has to come, and for which an idle connection is kept.
pub const HEAD_WITHIN: Duration = Duration::from_secs(30);
/// Longest silence in the middle of a body.
pub const BODY_SILENT: Duration = Duration::from_secs(20);
/// Most headers of a request.
const MOST_HEADERS: usize = 64;
/// Most bytes of a request's head.
const MOST_HEAD: usize = 32 << 10;

/// Where people reach this server, and whom it believes about them.
#[derive(Debug, Clone, Default)]
pub struct Door {
    /// Address that people type, where a proxy stands in front; none where they reach the server on loopback.
    pub public: Option<PublicUrl>,
    /// Proxies that are believed when they say for whom they ask.
    pub trusted: Vec<IpNet>,
}

/// Address that people type.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PublicUrl {
    /// Scheme, host and port, as browsers send it.
    pub origin: String,
    /// True with TLS.
    pub secure: bool,
}

impl PublicUrl {
    /// Reads it.
    ///
    /// # Errors
    /// When it is no address of a site, or one without TLS that is not on loopback.
    pub fn parse(text: &str) -> Result<Self> {
        let form = || format!("--public-url is \"{text}\": write it as https://tests.example, without a path");
        let uri: Uri = text.parse().with_context(form)?;
        let (scheme, host) = (uri.scheme_str().with_context(form)?, uri.host().with_context(form)?);
        anyhow::ensure!(matches!(uri.path(), "" | "/") && uri.query().is_none() && matches!(scheme, "http" | "https"), form());
        let secure = scheme == "https";
        anyhow::ensure!(
            secure || matches!(host, "localhost" | "127.0.0.1" | "[::1]"),
            "--public-url is \"{text}\": without TLS passwords would cross the network in the clear. Put a proxy with a certificate in front, and write \
             https:// here"
        );
        let usual = if secure { 443 } else { 80 };
        let port = uri.port_u16().filter(|p| *p != usual).map(|p| format!(":{p}")).unwrap_or_default();
        Ok(Self { origin: format!("{scheme}://{}{port}", host.to_ascii_lowercase()), secure })
    }
}

impl Door {
    /// True with TLS in front.
    pub fn secure(&self) -> bool {
        self.public.as_ref().is_some_and(|p| p.secure)
    }

    /// The address of the person: the connection's, or what a trusted proxy says, read from the end so that nobody can put one in front.
    pub fn address(&self, peer: IpAddr, headers: &HeaderMap) -> IpAddr {
        let believed = |ip: &IpAddr| self.trusted.iter().any(|net| net.contains(ip));
        if !believed(&peer) {
            return peer;
        }
        let all: Vec<&str> =
            headers.get_all("x-forwarded-for").iter().filter_map(|v| v.to_str().ok()).flat_map(|v| v.split(',')).map(str::trim).collect();
        let mut last = peer;
        for text in all.into_iter().rev() {
            let Ok(ip) = text.parse::<IpAddr>() else { return last };
            last = ip;
            if !believed(&ip) {
                return ip;
            }
        }
        last
    }

    /// True when a browser says that the request comes from a page of another origin.
    pub fn foreign(&self, headers: &HeaderMap) -> bool {
        let text = |name: header::HeaderName| headers.get(name).and_then(|v| v.to_str().ok());
        let cross_site = text(header::HeaderName::from_static("sec-fetch-site")).is_some_and(|s| !matches!(s, "same-origin" | "none"));
        let other_origin = match (text(header::ORIGIN), &self.public) {
            (Some(origin), Some(public)) => !origin.eq_ignore_ascii_case(&public.origin),
            (Some(origin), None) => text(header::HOST).is_some_and(|host| origin.split_once("://").map_or("", |o| o.1) != host),
            (None, _) => false,
        };
        cross_site || other_origin
    }
}

/// Where a request comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Caller(pub IpAddr);

impl<S: Sync> FromRequestParts<S> for Caller {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Infallible> {
        Ok(parts.extensions.get::<Self>().copied().unwrap_or(Self(IpAddr::V4(Ipv4Addr::LOCALHOST))))
    }
}

/// Notes where a request comes from.
pub async fn enter(State(door): State<std::sync::Arc<Door>>, mut request: Request, next: Next) -> Response {
    let peer = request.extensions().get::<ConnectInfo<SocketAddr>>().map_or(IpAddr::V4(Ipv4Addr::LOCALHOST), |c| c.0.ip());
    let caller = Caller(door.address(peer, request.headers()));
    request.extensions_mut().insert(caller);
    next.run(request).await
}

/// Serves until `stop` is done, then lets requests under way finish for a few seconds.
///
/// # Errors
/// When the listener fails.
pub async fn serve(listener: std::net::TcpListener, service: axum::Router, stop: impl Future<Output = ()> + Send + 'static) -> Result<()> {
    serve_within(listener, service, stop, HEAD_WITHIN).await
}

async fn serve_within(
    listener: std::net::TcpListener,
    service: axum::Router,
    stop: impl Future<Output = ()> + Send + 'static,
    head_within: Duration,
) -> Result<()> {
    let handle = axum_server::Handle::new();
    let ends = handle.clone();
    tokio::spawn(async move {
        stop.await;
        ends.graceful_shutdown(Some(Duration::from_secs(4)));
    });
    let mut server = axum_server::from_tcp(listener)?.handle(handle);
    let builder = server.http_builder();
    builder
        .http1()
        .timer(hyper_util::rt::TokioTimer::new())
        .header_read_timeout(head_within)
        .max_headers(MOST_HEADERS)
        .max_buf_size(MOST_HEAD);
    Ok(server.serve(service.into_make_service_with_connect_info::<SocketAddr>()).await?)
}

/// The account of a request, once it is known.
#[derive(Debug, Clone, Default)]
pub struct Named(pub Arc<OnceLock<String>>);

/// True of a method that changes something.
pub fn is_change(method: &Method) -> bool {
    !matches!(*method, Method::GET | Method::HEAD | Method::OPTIONS)
}

#[cfg(test)]
mod tests {
    use super::*;
    use axum::http::HeaderValue;

    fn headers(all: &[(&'static str, &str)]) -> HeaderMap {
        all.iter().map(|(n, v)| (header::HeaderName::from_static(n), HeaderValue::from_str(v).unwrap())).collect()
    }

    /// Half a head, a head with nothing after it, and an idle connection are closed in time; what is being answered is not.
    #[tokio::test]
    async fn a_connection_that_says_nothing_is_closed() {
        use tokio::io::{AsyncReadExt, AsyncWriteExt};
        let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap();
        let slow = axum::routing::get(|| async {
            tokio::time::sleep(Duration::from_millis(900)).await;
            "done"
        });
        let stop = tokio_util::sync::CancellationToken::new();
        let serving =
            serve_within(listener, axum::Router::new().route("/", slow), stop.clone().cancelled_owned(), Duration::from_millis(300));
        let serving = tokio::spawn(serving);
        for (sent, answered) in [("GET / HTTP/1.1\r\nHost: a\r\nX-Slow", false), ("GET / HTTP/1.1\r\nHost: a\r\n\r\n", true)] {
            let mut connection = tokio::net::TcpStream::connect(address).await.unwrap();
            connection.write_all(sent.as_bytes()).await.unwrap();
            let mut said = String::new();
            let closed = tokio::time::timeout(Duration::from_secs(3), connection.read_to_string(&mut said)).await;
            assert!(closed.is_ok(), "left open: {sent:?} {said:?}");
            assert_eq!(said.contains("done"), answered, "{said}");
        }
        stop.cancel();
        serving.await.unwrap().unwrap();
    }

    #[test]
    fn only_a_trusted_proxy_says_for_whom_it_asks() {
        let door = Door { public: None, trusted: vec!["127.0.0.1/32".parse().unwrap(), "10.0.0.0/8".parse().unwrap()] };
        let ip = |t: &str| t.parse::<IpAddr>().unwrap();
        let said = headers(&[("x-forwarded-for", "6.6.6.6, 203.0.113.9, 10.1.1.1")]);
        // the last that is no proxy; what stands before it anybody may have written
        assert_eq!(door.address(ip("127.0.0.1"), &said), ip("203.0.113.9"));
        assert_eq!(door.address(ip("198.51.100.7"), &said), ip("198.51.100.7"));
        assert_eq!(Door::default().address(ip("127.0.0.1"), &said), ip("127.0.0.1"));
        assert_eq!(door.address(ip("127.0.0.1"), &headers(&[("x-forwarded-for", "rubbish")])), ip("127.0.0.1"));
    }

    #[test]
    fn a_page_of_another_origin_changes_nothing() {
        let at = |url: &str| Door { public: Some(PublicUrl::parse(url).unwrap()), trusted: vec![] };
        let behind = at("https://Tests.example:443/");
        assert_eq!(behind.public.as_ref().unwrap().origin, "https://tests.example");
        // behind the proxy the host is the proxy's choice: the public address counts
        assert!(!behind.foreign(&headers(&[("origin", "https://tests.example"), ("host", "127.0.0.1:8600")])));
        assert!(behind.foreign(&headers(&[("origin", "http://tests.example"), ("host", "tests.example")])));
        assert!(behind.foreign(&headers(&[("origin", "null"), ("host", "tests.example")])));
        assert!(behind.foreign(&headers(&[("sec-fetch-site", "cross-site")])));
        let alone = Door::default();
        assert!(!alone.foreign(&headers(&[("origin", "http://127.0.0.1:8600"), ("host", "127.0.0.1:8600")])));
        assert!(alone.foreign(&headers(&[("origin", "http://evil.example"), ("host", "127.0.0.1:8600")])));
        assert!(!alone.foreign(&HeaderMap::new()));
        for wrong in ["tests.example", "http://tests.example", "https://tests.example/zl", "ftp://tests.example", "https://"] {
            assert!(PublicUrl::parse(wrong).is_err(), "{wrong}");
        }
        assert!(!PublicUrl::parse("http://localhost:8600").unwrap().secure);
    }
}
