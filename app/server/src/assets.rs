//! The front end's files, with a strict policy on what a page may load.

use axum::body::Body;
use axum::http::{HeaderValue, StatusCode, Uri, header};
use axum::response::{Html, IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
struct Web;

/// What an answer that is no page may load: nothing.
pub const POLICY: &str = "default-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'";

/// What keeps the program on a device may ask for: the program's own files.
const WORKER: (&str, &str) =
    ("worker.js", "default-src 'none'; connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'");

/// Devices of the browser that a page may use: none.
pub const PERMISSIONS: &str = "camera=(), microphone=(), geolocation=(), payment=(), usb=(), serial=(), bluetooth=(), display-capture=()";

/// In the page, where the nonce of its styles stands.
const NONCE: &str = "%NONCE%";

/// What a page may load: its own files only; no inline script, and no inline style but those that carry the page's nonce.
fn policy(nonce: &str) -> String {
    format!(
        "default-src 'self'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; \
         object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
    )
}

/// A file of the front end; any other path is a view of the application.
pub async fn serve(uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    let (name, file) = match Web::get(path) {
        Some(file) if !path.is_empty() => (path, Some(file)),
        _ if path.contains('.') => (path, None),
        _ => ("index.html", Web::get("index.html")),
    };
    let Some(file) = file else {
        return (StatusCode::NOT_FOUND, "There is no such file.").into_response();
    };
    if name == "index.html" {
        return page(&file.data);
    }
    let kind = mime_guess::from_path(name).first_or_octet_stream();
    let mut response = Response::new(Body::from(file.data.into_owned()));
    let headers = response.headers_mut();
    if let Ok(value) = HeaderValue::from_str(kind.as_ref()) {
        headers.insert(header::CONTENT_TYPE, value);
    }
    // file names carry a hash of their content
    let cache = if name.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    headers.insert(header::CACHE_CONTROL, HeaderValue::from_static(cache));
    if name == WORKER.0 {
        headers.insert(header::CONTENT_SECURITY_POLICY, HeaderValue::from_static(WORKER.1));
    }
    response
}

/// The page itself, with a nonce of its own.
fn page(file: &[u8]) -> Response {
    let random: [u8; 16] = rand::random();
    let nonce = record::canonical::hex(&random);
    let html = String::from_utf8_lossy(file).replace(NONCE, &nonce);
    let mut response = Html(html).into_response();
    let headers = response.headers_mut();
    if let Ok(value) = HeaderValue::from_str(&policy(&nonce)) {
        headers.insert(header::CONTENT_SECURITY_POLICY, value);
    }
    headers.insert(header::CACHE_CONTROL, HeaderValue::from_static("no-store"));
    response
}
