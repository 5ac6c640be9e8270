//! A logger's file: preview with a guessed or remembered mapping, then import with progress.

use super::attempts::of_person;
use super::{File, Query};
use crate::access::Action;
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::recording::{self, NewRecording};
use crate::store::{logger_mapping, signature};
use crate::who::Who;
use axum::Json;
use axum::body::{Body, Bytes};
use axum::extract::{Path, State};
use axum::http::{HeaderValue, header};
use axum::response::Response;
use formats::delimited;
use formats::logger::{self, LoggerError, Mapping};
use run::rows::LoggerRow;
use serde::{Deserialize, Serialize};
use tokio::sync::mpsc;

/// Bytes of a file that the preview looks at.
const PREVIEW_BYTES: usize = 64 * 1024;

/// What a file looks like.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct LoggerPreview {
    /// Names of the columns.
    pub header: Vec<String>,
    /// First rows.
    pub rows: Vec<Vec<String>>,
    /// Encoding that was found.
    pub encoding: String,
    /// Separator that was found.
    pub separator: String,
    /// How it would be read.
    pub mapping: Mapping,
    /// True when that was remembered from a file with the same columns.
    pub remembered: bool,
}

/// Looks at the first rows of a file; stores nothing.
#[utoipa::path(post, path = "/api/v1/attempts/{attempt}/recordings/preview", tag = "run", params(("attempt" = String, Path)), request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = LoggerPreview), (status = 404, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn preview(State(app): State<App>, who: Who, Path(id): Path<String>, File(file): File) -> Result<Json<LoggerPreview>, Problem> {
    let (pack, _) = of_person(&app, &who, &id, Action::Book).await?;
    // whole lines only, so that a cut row is not taken for a broken one
    let head = &file[..file.len().min(PREVIEW_BYTES)];
    let end = if head.len() < file.len() { head.iter().rposition(|b| *b == b'\n').map_or(head.len(), |i| i + 1) } else { head.len() };
    let table = delimited::read(&head[..end]).map_err(|e| Problem::invalid("file", e))?;
    let recalled = logger_mapping::recall(&app.db, &who.sign_in, &table.header).await?;
    Ok(Json(LoggerPreview {
        remembered: recalled.is_some(),
        mapping: recalled.unwrap_or_else(|| Mapping::guess(&table.header, &table.rows, pack.project.zone.name())),
        rows: table.rows.into_iter().take(8).collect(),
        header: table.header,
        encoding: table.encoding,
        separator: table.separator,
    }))
}

/// How a file is to be read.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
pub struct ImportQuery {
    /// Name of the file.
    pub file_name: String,
    /// The mapping as JSON.
    pub mapping: String,
    /// True to say how it would be read, and to store nothing.
    #[serde(default)]
    pub look: bool,
}

/// One line of the progress that an import answers with.
#[derive(Debug, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case", tag = "state")]
pub enum ImportLine {
    /// reading
    Reading {
        /// rows read so far
        rows: usize,
        /// share of the file
        share: f64,
    },
    /// read, and not stored: how it is understood
    Understood {
        /// rows in all
        rows: usize,
        /// zone of its clock
        zone: String,
        /// first row, as an instant
        first_at: moment::Instant,
        /// last row, as an instant
        last_at: moment::Instant,
        /// first pressure, Pa
        first_pa: Option<f64>,
        /// last pressure, Pa
        last_pa: Option<f64>,
        /// least and greatest pressure, Pa
        range_pa: Option<(f64, f64)>,
    },
    /// read and stored
    Stored {
        /// rows in all
        rows: usize,
    },
    /// refused; nothing was stored
    Refused {
        /// what, where, and what to do
        sentence: String,
        /// what to choose, where a choice is asked for: `doubled_hour`, `date_order`
        #[serde(skip_serializing_if = "Option::is_none")]
        asks: Option<&'static str>,
    },
}

/// Reads and stores a file, all or nothing. Answers with lines of JSON that tell the progress; closing the connection cancels.
#[utoipa::path(put, path = "/api/v1/attempts/{attempt}/recordings/{recording}", tag = "run", params(("attempt" = String, Path), ("recording" = String, Path), ImportQuery),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = ImportLine, content_type = "application/x-ndjson"), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, recording_id)): Path<(String, String)>,
    Query(query): Query<ImportQuery>,
    File(file): File,
) -> Result<Response, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::Book).await?;
    super::uuid(&recording_id)?;
    let mapping: Mapping =
        serde_json::from_str(&query.mapping).map_err(|e| Problem::invalid("mapping", format!("the mapping cannot be read: {e}")))?;
    if signature::content_sha256(&app.db, &id).await?.is_some() {
        return Err(Problem::Conflict("This record is signed: nothing is added to it. Supersede it with a reason.".to_owned()));
    }
    let (lines, receiver) = mpsc::channel::<ImportLine>(64);
    let released_us = attempt.released_at.us();
    let file_name: String = query.file_name.chars().take(200).collect();
    let import =
        Import { app, person: who.sign_in, pack: pack.id, attempt: id, recording: recording_id, file_name, mapping, file, released_us };
    tokio::spawn(import.run(query.look, lines));
    let stream = futures_lines(receiver);
    let mut response = Response::new(Body::from_stream(stream));
    response.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static("application/x-ndjson"));
    Ok(response)
}

/// Lines of JSON from a channel.
fn futures_lines(receiver: mpsc::Receiver<ImportLine>) -> impl futures_core::Stream<Item = Result<Bytes, std::io::Error>> + Send {
    use tokio_stream::StreamExt;
    tokio_stream::wrappers::ReceiverStream::new(receiver).map(|line| {
        let mut text = serde_json::to_vec(&line)?;
        text.push(b'\n');
        Ok(Bytes::from(text))
    })
}

/// A file that is read in.
struct Import {
    app: App,
    person: String,
    pack: String,
    attempt: String,
    recording: String,
    file_name: String,
    mapping: Mapping,
    file: Bytes,
    released_us: i64,
}

impl Import {
    /// Reads it and stores it, or only looks; tells the progress.
    async fn run(self, look: bool, lines: mpsc::Sender<ImportLine>) {
        let (file, mapping, progress) = (self.file.clone(), self.mapping.clone(), lines.clone());
        let looked = self.app.looking.run(move |_| {
            logger::read(&file, &mapping, &mut |rows, done, all| {
                let share = done as f64 / all.max(1) as f64;
                progress.blocking_send(ImportLine::Reading { rows, share }).is_ok()
            })
        });
        let end = match looked.await {
            Err(e) => refused(&e),
            Ok(Err(LoggerError::Cancelled)) => return,
            Ok(Err(e @ LoggerError::Doubled { .. })) => {
                ImportLine::Refused { sentence: Problem::invalid("file", e).to_string(), asks: Some("doubled_hour") }
            }
            Ok(Err(e @ LoggerError::DateOrder { .. })) => {
                ImportLine::Refused { sentence: Problem::invalid("file", e).to_string(), asks: Some("date_order") }
            }
            Ok(Err(e)) => refused(&Problem::invalid("file", e)),
            Ok(Ok(rows)) if look => understood(&rows, &self.mapping),
            Ok(Ok(rows)) => match self.store(&rows).await {
                Ok(()) => ImportLine::Stored { rows: rows.len() },
                Err(e) => refused(&e),
            },
        };
        let _ = lines.send(end).await;
    }

    async fn store(&self, rows: &[LoggerRow]) -> Result<(), Problem> {
        let app = &self.app;
        let now_us = app.clock.now().us();
        let (first, last) = (rows.first().map_or(0, |r| r.at_us), rows.last().map_or(0, |r| r.at_us));
        if last > now_us + 300_000_000 {
            return Err(Problem::invalid("file", "the file's times lie in the future: check the zone and the date of its clock"));
        }
        if last < self.released_us {
            return Err(Problem::invalid(
                "file",
                "every time in the file is before this test was released: check the zone and the date of its clock",
            ));
        }
        debug_assert!(first <= last);
        let new = NewRecording {
            id: &self.recording,
            attempt: &self.attempt,
            file_name: &self.file_name,
            raw: &self.file,
            mapping: &self.mapping,
            rows,
            person: &self.person,
        };
        recording::insert(&app.db, &new).await?;
        let table = delimited::read(&self.file[..self.file.len().min(PREVIEW_BYTES)]);
        if let Ok(table) = table {
            logger_mapping::remember(&app.db, &self.pack, &self.person, &table.header, &self.mapping).await?;
        }
        Ok(())
    }
}

/// How a file is understood.
fn understood(rows: &[LoggerRow], mapping: &Mapping) -> ImportLine {
    let at = |r: Option<&LoggerRow>| moment::Instant::from_us(r.map_or(0, |r| r.at_us));
    let pressures = || rows.iter().filter_map(|r| r.pressure_pa);
    let range = pressures().fold(None, |range: Option<(f64, f64)>, p| Some(range.map_or((p, p), |(low, high)| (low.min(p), high.max(p)))));
    ImportLine::Understood {
        rows: rows.len(),
        zone: mapping.zone.clone(),
        first_at: at(rows.first()),
        last_at: at(rows.last()),
        first_pa: pressures().next(),
        last_pa: pressures().next_back(),
        range_pa: range,
    }
}

fn refused(problem: &Problem) -> ImportLine {
    ImportLine::Refused { sentence: problem.to_string(), asks: None }
}
