//! Opening a picture someone sent, within bounds of memory and time.
//!
//! JPEG and PNG, nearly all that is sent, are decoded here: their decoders hold to what the header says. Everything else
//! (TIFF, camera raw, OpenEXR, WebP, Radiance, BMP) goes to a process of its own that the system ends when it takes too
//! much memory or too long, and that ends with the request.

use crate::App;
use crate::prepared::{Prepared, prepared_of};
use crate::problem::{Answer, Problem};
use pictures::{Decoded, Facts, Limits, Refusal};
use serde::{Deserialize, Serialize};
use std::process::Stdio;
use std::sync::Arc;
use std::time::Duration;
use tokio::io::{AsyncReadExt, AsyncWriteExt};

/// How long a picture may take to open, in a process of its own.
const LONGEST: Duration = Duration::from_secs(30);
/// Megabytes taken for a picture whose size its first bytes do not tell.
const UNKNOWN_MB: u64 = 400;

/// What the process says before the samples.
#[derive(Serialize, Deserialize)]
struct Head {
    refused: Option<String>,
    facts: Option<Facts>,
    bytes: u64,
}

/// Reads a picture file from `input`, decodes it, writes what was found to `output`: the other end of [`open`].
///
/// # Errors
/// If either end breaks off.
pub fn decode_for_server(input: &mut impl std::io::Read, output: &mut impl std::io::Write) -> std::io::Result<()> {
    let mut bytes = Vec::new();
    input.read_to_end(&mut bytes)?;
    let (head, samples) = match pictures::decode(&bytes, Limits::default()) {
        Ok(d) => {
            let samples = pictures::samples_to_bytes(&d.photo);
            (Head { refused: None, facts: Some(d.facts), bytes: samples.len() as u64 }, samples)
        }
        Err(r) => (Head { refused: Some(r.to_string()), facts: None, bytes: 0 }, Vec::new()),
    };
    let head = serde_json::to_vec(&head)?;
    output.write_all(&u32::try_from(head.len()).unwrap_or(0).to_le_bytes())?;
    output.write_all(&head)?;
    output.write_all(&samples)?;
    output.flush()
}

fn damaged() -> Problem {
    Problem::refused(Refusal::Damaged("it takes too long or too much memory to open".into()).to_string())
}

/// Decodes in a process of its own.
async fn apart(program: &std::path::Path, bytes: Arc<Vec<u8>>) -> Answer<Decoded> {
    let mut child = tokio::process::Command::new(program)
        .arg("decode")
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        // a request that goes away takes it along
        .kill_on_drop(true)
        .spawn()
        .map_err(Problem::internal)?;
    let (Some(mut input), Some(mut output)) = (child.stdin.take(), child.stdout.take()) else {
        return Err(Problem::internal("no pipes to the decoder"));
    };
    let send = tokio::spawn(async move {
        let _ = input.write_all(&bytes).await;
    });
    let most = Limits::default().memory;
    let read = async {
        let n = output.read_u32_le().await?;
        let mut head = vec![0; n.min(1 << 20) as usize];
        output.read_exact(&mut head).await?;
        let head: Head = serde_json::from_slice(&head)?;
        let mut samples = vec![0; usize::try_from(head.bytes.min(most)).unwrap_or(0)];
        output.read_exact(&mut samples).await?;
        Ok::<_, std::io::Error>((head, samples))
    };
    let found = tokio::time::timeout(LONGEST, read).await;
    send.abort();
    let Ok(Ok((head, samples))) = found else { return Err(damaged()) };
    if let Some(text) = head.refused {
        return Err(Problem::refused(text));
    }
    let facts = head.facts.ok_or_else(damaged)?;
    let photo = pictures::photo_of_bytes(&facts, samples).map_err(Problem::internal)?;
    Ok(Decoded { photo, facts })
}

/// Opens a picture: decoded and metered, within the memory there is.
pub(crate) async fn open(app: &App, bytes: Arc<Vec<u8>>) -> Answer<Arc<Prepared>> {
    let here = pictures::is_plain(&bytes);
    let megabytes = pictures::megabytes_to_open(&bytes).unwrap_or(UNKNOWN_MB);
    let _memory = app.work.memory(megabytes).await?;
    let refused = |r: Refusal| Problem::refused(r.to_string());
    if here || app.decoder.is_none() {
        return app
            .work
            .run(crate::work::Pace::Heavy, move || pictures::decode(&bytes, Limits::default()).map(prepared_of))
            .await?
            .map_err(refused);
    }
    let program = app.decoder.clone().unwrap_or_default();
    let decoded = apart(&program, bytes).await?;
    app.work.run(crate::work::Pace::Heavy, move || prepared_of(decoded)).await
}
