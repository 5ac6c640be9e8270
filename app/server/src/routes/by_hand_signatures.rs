//! Signatures of people without an account: over a link that is good once, or by hand on the device of whoever tested.

use super::attempts::of_person;
use super::records::printed_pages;
use super::signatures::{By, given_by};
use super::{Body, uuid};
use crate::access::Action;
use crate::door::Caller;
use crate::problem::{FieldProblem, Problem, ProblemBody};
use crate::state::App;
use crate::store::signature::{self, SignLink};
use crate::store::{attempt, pack as packs};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use moment::Instant;
use pack::signing::{Act, HandWay};
use record::sealed::{SignedByHand, SignedStatement};
use serde::{Deserialize, Serialize};
use terms::Outcome;

/// How long a link is good, days.
const LINK_DAYS: f64 = 14.0;
/// Longest name, body or number, characters.
const LONGEST: usize = 120;
/// Longest drawing, characters of its path.
const LONGEST_DRAWING: usize = 20_000;
/// Fewest points that are a signature and no slip of the finger.
const FEWEST_POINTS: usize = 8;

/// Who signs without an account, and what they drew.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Hand {
    /// Name.
    pub name: String,
    /// For whom: a firm, an authority, a club, or themselves.
    pub body: String,
    /// Number of their appointment, badge or stamp; empty where they have none.
    #[serde(default)]
    pub number: String,
    /// What they drew, as an SVG path of `M` and `L` in a field of 600 by 200; over a link it may be empty, the name stands for it then.
    pub drawing: String,
}

impl Hand {
    /// As it is sealed; all that stands against it at once.
    fn checked(&self, way: HandWay) -> Result<SignedByHand, Problem> {
        let mut against = Vec::new();
        for (field, text, needed) in [
            ("name", &self.name, "Write the name of whoever signs."),
            ("body", &self.body, "Write for whom they sign: the firm, the authority, the club, or themselves."),
            ("number", &self.number, ""),
        ] {
            match text.trim().chars().count() {
                0 if !needed.is_empty() => against.push(FieldProblem::new(field, needed)),
                n if n > LONGEST => against.push(FieldProblem::new(field, format!("{n} characters are too many: {LONGEST} fit."))),
                _ => {}
            }
        }
        // over their own link the name that they wrote may stand for it: not everybody can draw
        let name_alone = way == HandWay::Link && self.drawing.is_empty();
        if let Some(why) = no_drawing(&self.drawing).filter(|_| !name_alone) {
            against.push(FieldProblem::new("drawing", why));
        }
        if !against.is_empty() {
            return Err(Problem::Several(against));
        }
        let trimmed = |t: &str| t.trim().to_owned();
        Ok(SignedByHand {
            name: trimmed(&self.name),
            body: trimmed(&self.body),
            number: trimmed(&self.number),
            way,
            authenticated: way.authenticated(),
            drawing: self.drawing.clone(),
        })
    }
}

/// Why something is no drawing; none where it is one.
fn no_drawing(path: &str) -> Option<&'static str> {
    const UNREADABLE: &str = "What was drawn cannot be read: draw the signature once more, in one go.";
    if path.len() > LONGEST_DRAWING {
        return Some(UNREADABLE);
    }
    let inside = |t: &str, most: f64| t.trim().parse::<f64>().is_ok_and(|v| (0.0..=most).contains(&v));
    let mut points = 0;
    // a path begins with a move: before it stands nothing
    let pieces = path.strip_prefix('M').map_or_else(Vec::new, |rest| rest.split(['M', 'L']).collect());
    if pieces.is_empty() && !path.is_empty() {
        return Some(UNREADABLE);
    }
    for point in pieces {
        // a point that is none is no drawing, whatever else stands there
        if !point.trim().split_once(' ').is_some_and(|(x, y)| inside(x, 600.0) && inside(y, 200.0)) {
            return Some(UNREADABLE);
        }
        points += 1;
    }
    (points < FEWEST_POINTS).then_some("Draw the signature in the field, with a finger, a pen or the mouse.")
}

/// A signature that is drawn on the device of whoever tested.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Drawn {
    /// What it does.
    pub act: Act,
    /// Who signs.
    pub hand: Hand,
}

/// Signs by hand on the device of whoever tested; the seal says that nothing proves who drew it. The same id again changes nothing.
#[utoipa::path(put, path = "/api/v1/attempts/{attempt}/drawn/{signature}", tag = "record", params(("attempt" = String, Path), ("signature" = String, Path)), request_body = Drawn,
    responses((status = 200, body = Vec<SignedStatement>), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn drawn(
    State(app): State<App>,
    who: Who,
    caller: Caller,
    Path((id, signature_id)): Path<(String, String)>,
    Body(body): Body<Drawn>,
) -> Result<Json<Vec<SignedStatement>>, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::Book).await?;
    uuid(&signature_id)?;
    if signature::given(&app.db, &signature_id, &id).await? {
        return Ok(Json(signature::of_attempt(&app.db, &id).await?));
    }
    let by = By { account: &who.sign_in, role: body.act.role(), hand: Some(body.hand.checked(HandWay::Here)?) };
    Ok(Json(given_by(&app, &by, &pack, &attempt, &signature_id, (body.act, caller)).await?))
}

/// A link to make.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewLink {
    /// What its receiver signs.
    pub act: Act,
    /// For whom it is.
    pub name: String,
}

/// A link that was made.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct SigningLink {
    /// What stands behind the address of this installation; told once.
    pub path: String,
    /// Until when it is good.
    pub until: Instant,
}

/// Makes a link to one signature under one record; an earlier one for it is good no more.
#[utoipa::path(post, path = "/api/v1/attempts/{attempt}/links", tag = "record", params(("attempt" = String, Path)), request_body = NewLink,
    responses((status = 200, body = SigningLink), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn link(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Body(body): Body<NewLink>,
) -> Result<Json<SigningLink>, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::Book).await?;
    let name = body.name.trim();
    if name.is_empty() || name.chars().count() > LONGEST {
        return Err(Problem::invalid("name", "write for whom the link is, as they are called"));
    }
    let signed: Vec<Act> = signature::of_attempt(&app.db, &id).await?.iter().map(|s| s.act).collect();
    if let Some(sentence) = pack::signing::by_hand_objection(pack.form, attempt.frozen.plan.signers, &signed, body.act) {
        return Err(Problem::Conflict(sentence));
    }
    let secret: [u8; 24] = rand::random();
    let token = record::canonical::hex(&secret);
    let until = app.clock.now().plus_s(LINK_DAYS * 86_400.0);
    let link = SignLink { attempt: id, act: body.act, name: name.to_owned(), made_by: who.sign_in.clone() };
    signature::link(&app.db, &record::canonical::sha256_hex(token.as_bytes()), &link, until).await?;
    Ok(Json(SigningLink { path: format!("/sign#{token}"), until }))
}

/// What somebody with a link asks.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WithLink {
    /// What stands behind # in the link.
    pub token: String,
    /// The signature; absent to look first.
    #[serde(default)]
    pub hand: Option<Hand>,
}

/// The one record that a link opens.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct LinkedRecord {
    /// Site.
    pub site: String,
    /// Number and title of the test.
    pub test: String,
    /// For whom the link was made.
    pub name: String,
    /// Who made it.
    pub made_by: String,
    /// What is signed.
    pub act: Act,
    /// What the signature states.
    pub statement: String,
    /// The page, as it will be printed, one SVG each.
    pub pages: Vec<String>,
    /// True once it is signed.
    pub signed: bool,
}

/// Looks at the record of a link, and signs it. The link is good for one signature.
#[utoipa::path(post, path = "/api/v1/signing", tag = "record", request_body = WithLink,
    responses((status = 200, body = LinkedRecord), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody), (status = 429, body = ProblemBody)))]
pub async fn with_link(State(app): State<App>, caller: Caller, Body(body): Body<WithLink>) -> Result<Json<LinkedRecord>, Problem> {
    app.limits.sign_in(caller.0)?;
    let hash = record::canonical::sha256_hex(body.token.trim().as_bytes());
    let gone = || {
        Problem::Conflict("This link was used, was replaced by a newer one, or has run out: ask whoever sent it for another.".to_owned())
    };
    let link = signature::linked(&app.db, &hash).await?.ok_or_else(gone)?;
    let row = attempt::get(&app.db, &link.attempt).await?;
    let pack = packs::get(&app.db, &row.pack_id).await?;
    let signed = body.hand.is_some();
    if let Some(hand) = &body.hand {
        let by = By { account: &link.made_by, role: link.act.role(), hand: Some(hand.checked(HandWay::Link)?) };
        // one of two who have the same link is second
        let id = uuid::Uuid::now_v7().to_string();
        given_by(&app, &by, &pack, &row, &id, (link.act, caller)).await?;
        signature::used(&app.db, &hash).await?;
    }
    let content = signature::content(&app.db, &link.attempt).await?;
    let outcome = content.as_ref().map_or(Outcome::NotComplete, |c| c.parts.judgement.outcome());
    let statement = format!("{}{}", link.act.statement(pack.form, row.frozen.plan.signers, outcome), HandWay::Link.proviso());
    Ok(Json(LinkedRecord {
        site: crate::store::site::get(&app.db).await?.name,
        test: format!("{} {}", pack.number, row.frozen.title),
        name: link.name,
        made_by: link.made_by,
        act: link.act,
        statement,
        pages: if signed { Vec::new() } else { printed_pages(&app, &pack, row).await? },
        signed,
    }))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_drawing_is_points_in_its_field_and_nothing_else() {
        let drawn = "M10 20L11 21L12 22L13 23L14.5 24L15 25L16 26L17 27";
        assert_eq!(no_drawing(drawn), None);
        for wrong in [
            "",
            "M10 20",
            "<svg onload=1>",
            "M10 20L700 20L1 1L1 1L1 1L1 1L1 1L1 1",
            "L10 20L11 21L12 22L13 23L14 24L15 25L16 26L17 27",
            "Mx y",
            "M1",
            "M\"/><script>",
            "M10 20L11 21L12 22L13 23L14 24L15 25L16 26L17 27L<b>",
        ] {
            assert!(no_drawing(wrong).is_some(), "{wrong}");
        }
    }

    #[test]
    fn over_a_link_a_name_may_stand_alone_and_on_anothers_device_it_may_not() {
        let hand =
            |name: &str, drawing: &str| Hand { name: name.into(), body: "the club".into(), number: String::new(), drawing: drawing.into() };
        assert!(hand("The tester", "").checked(HandWay::Link).is_ok());
        assert!(hand("The tester", "").checked(HandWay::Here).is_err());
        assert!(hand("The tester", "M1 1").checked(HandWay::Link).is_err(), "what was drawn is drawn");
        assert!(hand(" ", "").checked(HandWay::Link).is_err(), "nobody");
    }
}
