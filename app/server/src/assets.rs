//! The front end's files, with a strict policy on what a page may load.

use axum::body::Body;
use axum::http::{HeaderValue, StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
struct Web;

/// What a page may load: its own files only, no inline script. Styles set by script need 'unsafe-inline' for style alone.
pub const POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'";

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
    let kind = mime_guess::from_path(name).first_or_octet_stream();
    let mut response = Response::new(Body::from(file.data.into_owned()));
    let headers = response.headers_mut();
    if let Ok(value) = HeaderValue::from_str(kind.as_ref()) {
        headers.insert(header::CONTENT_TYPE, value);
    }
    // file names carry a hash of their content, the page itself does not
    let cache = if name.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    headers.insert(header::CACHE_CONTROL, HeaderValue::from_static(cache));
    response
}
