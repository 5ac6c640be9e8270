//! All routes in one place, and the description of the API that is made from them.

use crate::door::{BODY_SILENT, Door};
use crate::problem::Problem;
use crate::session_store::DatabaseSessions;
use crate::state::App;
use crate::{assets, routes, who};
use axum::http::{HeaderName, HeaderValue, header};
use axum::response::IntoResponse;
use axum::{Router, middleware};
use serde_json::Value;
use std::collections::BTreeSet;
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::timeout::RequestBodyTimeoutLayer;
use tower_sessions::cookie::SameSite;
use tower_sessions::{Expiry, SessionManagerLayer};
use utoipa::OpenApi;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

#[derive(OpenApi)]
#[openapi(info(
    title = "Zero Leak",
    description = "Pressures in Pa (gauge unless the name says otherwise), lengths in m, temperatures in °C, times in RFC 3339. A change needs the header x-request-token of the session."
))]
struct Description;

/// What is urgent: it has connections of its own. The table of budgets says the same of each route.
fn urgent() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(routes::registers::put))
        .routes(routes!(routes::session::get, routes::session::sign_in, routes::session::sign_out))
        .routes(routes!(routes::attempts::release))
        .routes(routes!(routes::readings::put, routes::readings::get))
        .routes(routes!(routes::readings::strike))
        .routes(routes!(routes::events::put))
        .routes(routes!(routes::looks::put))
        .routes(routes!(routes::corrections::put))
        .routes(routes!(routes::live::get))
        .routes(routes!(routes::rig::put))
        .routes(routes!(routes::signatures::put))
        .routes(routes!(routes::by_hand_signatures::drawn))
}

/// All else.
fn usual() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(routes::today::get))
        .routes(routes!(routes::lines::list))
        .routes(routes!(routes::lines::find))
        .routes(routes!(routes::news::get))
        .routes(routes!(routes::packs::get, routes::packs::make))
        .routes(routes!(routes::quick::make))
        .routes(routes!(routes::packs::promise))
        .routes(routes!(routes::packs::plan))
        .routes(routes!(routes::packs::why))
        .routes(routes!(routes::packs::what_if))
        .routes(routes!(routes::practice::put))
        .routes(routes!(routes::parts::put))
        .routes(routes!(routes::parts::check))
        .routes(routes!(routes::parts::preview))
        .routes(routes!(routes::joined::get))
        .routes(routes!(routes::joined::on_register))
        .routes(routes!(routes::suggested::get))
        .routes(routes!(routes::registers::get))
        .routes(routes!(routes::looks::make))
        .routes(routes!(routes::registers::csv))
        .routes(routes!(routes::registers::remove))
        .routes(routes!(routes::registers::changes))
        .routes(routes!(routes::instruments::list))
        .routes(routes!(routes::instruments::put))
        .routes(routes!(routes::instruments::pass_on))
        .routes(routes!(routes::instruments::lend))
        .routes(routes!(routes::instruments::changes))
        .routes(routes!(routes::library::get))
        .routes(routes!(routes::words::get))
        .routes(routes!(routes::specification::get, routes::specification::put))
        .routes(routes!(routes::specification::touches))
        .routes(routes!(routes::hold::proposed))
        .routes(routes!(routes::practice::debrief))
        .routes(routes!(routes::recordings::preview))
        .routes(routes!(routes::recordings::put))
        .routes(routes!(routes::hold::get))
        .routes(routes!(routes::hold::series))
        .routes(routes!(routes::records::sealed))
        .routes(routes!(routes::records::report_pdf))
        .routes(routes!(routes::records::report_pages))
        .routes(routes!(routes::again::put))
        .routes(routes!(routes::quick::gauges))
        .routes(routes!(routes::by_hand_signatures::link))
        .routes(routes!(routes::by_hand_signatures::with_link))
        .routes(routes!(routes::verify::post))
        .routes(routes!(routes::verify::certificate))
        .routes(routes!(routes::keeping::away))
        .routes(routes!(routes::keeping::look, routes::keeping::put))
        .routes(routes!(routes::projects::list))
        .routes(routes!(routes::projects::get, routes::projects::put))
        .routes(routes!(routes::people::list))
        .routes(routes!(routes::people::invite, routes::people::end))
        .routes(routes!(routes::people::roles))
        .routes(routes!(routes::people::link))
        .routes(routes!(routes::people::ask_factor))
        .routes(routes!(routes::site::put))
        .routes(routes!(routes::people::join))
        .routes(routes!(routes::account::sessions))
        .routes(routes!(routes::account::end_session))
        .routes(routes!(routes::account::password))
        .routes(routes!(routes::account::begin_factor, routes::account::confirm_factor, routes::account::end_factor))
        .routes(routes!(routes::setup::get, routes::setup::post))
        .routes(routes!(routes::security::list))
        .routes(routes!(routes::security::export))
}

/// What every route may answer besides its own, and what each status means.
const ANSWERS: [(&str, &str, bool); 16] = [
    ("200", "done; the body is the answer", false),
    ("201", "made; the body is what was made", false),
    ("204", "done, or was done before", false),
    ("304", "as it was: what whoever asks has is still the answer", false),
    ("400", "the request cannot be read", true),
    ("401", "nobody is signed in, or name and password do not fit", true),
    ("403", "not for this role, or not from a page of this application", true),
    ("404", "not there, or not for this person", true),
    ("409", "the state of the thing forbids it", false),
    ("412", "somebody else changed it first", false),
    ("413", "the body is larger than the route's budget", true),
    ("422", "something in the request cannot be used; field names it", true),
    ("428", "the version is missing (If-Match)", false),
    ("429", "too many attempts or requests: wait for Retry-After", true),
    ("500", "the server failed; its log names the cause", true),
    ("503", "busy, or longer than the route's budget: try again after Retry-After", true),
];

fn answers(responses: &mut utoipa::openapi::Responses) {
    use utoipa::openapi::{ContentBuilder, Ref, RefOr, ResponseBuilder};
    for (status, words, of_all) in ANSWERS {
        match responses.responses.get_mut(status) {
            Some(RefOr::T(there)) => {
                if there.description.is_empty() {
                    words.clone_into(&mut there.description);
                }
                // a problem is sent as one (RFC 9457)
                if status >= "400"
                    && let Some(problem) = there.content.shift_remove("application/json")
                {
                    there.content.insert("application/problem+json".to_owned(), problem);
                }
            }
            Some(RefOr::Ref(_)) => {}
            None if of_all => {
                let problem = ContentBuilder::new().schema(Some(Ref::from_schema_name("ProblemBody"))).build();
                let response = ResponseBuilder::new().description(words).content("application/problem+json", problem).build();
                responses.responses.insert(status.to_owned(), response.into());
            }
            None => {}
        }
    }
    // whoever may be outrun must say which version they change
    if responses.responses.contains_key("412")
        && let Some(as_problem) = responses.responses.get("404").or_else(|| responses.responses.get("401")).cloned()
    {
        let mut needed = as_problem;
        if let RefOr::T(response) = &mut needed {
            "the version is missing (If-Match)".clone_into(&mut response.description);
        }
        responses.responses.entry("428".to_owned()).or_insert(needed);
    }
}

/// Description of the API.
pub fn openapi() -> utoipa::openapi::OpenApi {
    opened(described())
}

/// Schemas that others are made of with more members (`allOf`) cannot forbid those members themselves.
fn opened(description: utoipa::openapi::OpenApi) -> utoipa::openapi::OpenApi {
    fn refs(value: &Value, inside: bool, found: &mut BTreeSet<String>) {
        match value {
            Value::Array(all) => all.iter().for_each(|v| refs(v, inside, found)),
            Value::Object(members) => {
                if let (true, Some(name)) = (inside, members.get("$ref").and_then(Value::as_str).and_then(|r| r.rsplit('/').next())) {
                    found.insert(name.to_owned());
                }
                members.iter().for_each(|(name, v)| refs(v, name == "allOf", found));
            }
            _ => {}
        }
    }
    let Ok(mut value) = serde_json::to_value(&description) else { return description };
    let mut found = BTreeSet::new();
    refs(&value, false, &mut found);
    for name in found {
        if let Some(schema) = value["components"]["schemas"][name].as_object_mut() {
            schema.remove("additionalProperties");
        }
    }
    serde_json::from_value(value).unwrap_or(description)
}

fn described() -> utoipa::openapi::OpenApi {
    let mut description = OpenApiRouter::with_openapi(Description::openapi()).merge(urgent()).merge(usual()).split_for_parts().1;
    // handlers of several resources share names; method and path are unique
    for (path, item) in &mut description.paths.paths {
        let name: String = path
            .trim_start_matches("/api/v1/")
            .chars()
            .map(|c| if c.is_ascii_alphanumeric() { c } else { '_' })
            .filter(|c| *c != '}')
            .collect();
        for (method, operation) in [("get", &mut item.get), ("put", &mut item.put), ("post", &mut item.post), ("delete", &mut item.delete)]
        {
            if let Some(operation) = operation {
                operation.operation_id = Some(format!("{method}_{}", name.trim_end_matches('_').replace("__", "_")));
                answers(&mut operation.responses);
            }
        }
    }
    description
}

/// The whole application.
pub fn router(app: App) -> Router {
    let part = |routes: OpenApiRouter<App>, app: App| {
        let (router, _) = routes.split_for_parts();
        router
            .layer(sessions(&app))
            .layer(middleware::from_fn_with_state(app.clone(), crate::budget::hold))
            .layer(middleware::from_fn_with_state(app.clone(), crate::security::watch))
            .layer(RequestBodyTimeoutLayer::new(BODY_SILENT))
            .with_state(app)
    };
    let mut all = usual();
    if app.bench {
        all = all.merge(routes::bench::routes().into());
    }
    part(urgent(), app.urgent()).merge(part(all, app)).fallback(fallback)
}

/// Sessions, marked for TLS where that is in front.
fn sessions(app: &App) -> SessionManagerLayer<DatabaseSessions> {
    let secure = app.door.secure();
    SessionManagerLayer::new(DatabaseSessions(app.db.clone()))
        .with_name(if secure { "__Host-zero_leak" } else { "zero_leak" })
        .with_secure(secure)
        .with_http_only(true)
        .with_path("/")
        .with_same_site(SameSite::Strict)
        .with_expiry(Expiry::OnInactivity(who::IDLE))
}

/// What every answer says to the browser about itself.
pub(crate) fn headers(router: Router, door: &Door) -> Router {
    let fixed = |name: HeaderName, value: &'static str| SetResponseHeaderLayer::overriding(name, HeaderValue::from_static(value));
    let router = router
        .layer(SetResponseHeaderLayer::if_not_present(header::CONTENT_SECURITY_POLICY, HeaderValue::from_static(assets::POLICY)))
        .layer(fixed(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .layer(fixed(header::REFERRER_POLICY, "no-referrer"))
        .layer(fixed(HeaderName::from_static("cross-origin-opener-policy"), "same-origin"))
        .layer(fixed(HeaderName::from_static("cross-origin-resource-policy"), "same-origin"))
        .layer(fixed(HeaderName::from_static("permissions-policy"), assets::PERMISSIONS))
        .layer(SetResponseHeaderLayer::if_not_present(header::CACHE_CONTROL, HeaderValue::from_static("no-store")));
    if door.secure() { router.layer(fixed(header::STRICT_TRANSPORT_SECURITY, "max-age=31536000")) } else { router }
}

/// Paths of the API that do not exist are problems; all others are views of the application.
async fn fallback(uri: axum::http::Uri) -> axum::response::Response {
    if uri.path().starts_with("/api/") { Problem::NotFound("such address").into_response() } else { assets::serve(uri).await }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::budget::{Class, of};

    #[test]
    fn a_route_is_urgent_in_the_table_and_in_its_connections_or_in_neither() {
        for (routes, is) in [(urgent(), true), (usual(), false)] {
            for path in routes.split_for_parts().1.paths.paths.keys() {
                assert_eq!(of(path).class == Class::Urgent, is, "{path}");
            }
        }
    }
}
