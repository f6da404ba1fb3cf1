//! `slantcast serve`: the web application.

use crate::Failure;
use std::net::SocketAddr;
use std::path::PathBuf;

/// Options of the server.
#[derive(clap::Args)]
pub(crate) struct Options {
    /// PostgreSQL connection string.
    #[arg(long, env = "DATABASE_URL")]
    database_url: String,
    /// Address to listen on.
    #[arg(long, env = "SLANTCAST_LISTEN", default_value = "127.0.0.1:8080")]
    listen: SocketAddr,
    /// Where pictures are kept: a folder, or `s3://BUCKET/FOLDER` (region, endpoint and keys from `AWS_...`).
    #[arg(long, env = "SLANTCAST_STORE", default_value = "var/store")]
    store: String,
    /// Folder of the built front end.
    #[arg(long, env = "SLANTCAST_WEB", default_value = "web/dist")]
    web: PathBuf,
    /// Folder to watch: pictures put into its folder of a case become takes.
    #[arg(long, env = "SLANTCAST_TETHER")]
    tether: Option<PathBuf>,
    /// Load the demo data if the database is empty.
    #[arg(long)]
    demo: bool,
    /// What this process does; several on one database share the work.
    #[arg(long, env = "SLANTCAST_ROLE", value_enum, default_value_t = Role::All)]
    role: Role,
}

#[derive(Debug, Clone, Copy, clap::ValueEnum)]
enum Role {
    /// Answer requests and do jobs.
    All,
    /// Answer requests; leave jobs to workers.
    Web,
    /// Do jobs and watch the folder; answer no requests.
    Worker,
}

pub(crate) fn run(o: Options) -> Result<(), Failure> {
    let filter = tracing_subscriber::EnvFilter::try_from_default_env()
        .unwrap_or_else(|_| tracing_subscriber::EnvFilter::new("info,sqlx=warn"));
    tracing_subscriber::fmt().with_env_filter(filter).with_writer(std::io::stderr).init();
    let config = server::Config {
        database_url: o.database_url,
        listen: o.listen,
        store: o.store,
        tether: o.tether,
        web: o.web,
        decoder: std::env::current_exe().ok(),
        demo: o.demo,
        role: match o.role {
            Role::All => server::ProcessRole::All,
            Role::Web => server::ProcessRole::Web,
            Role::Worker => server::ProcessRole::Worker,
        },
    };
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build().map_err(anyhow::Error::from)?;
    runtime.block_on(server::serve(&config, stop()))?;
    Ok(())
}

async fn stop() {
    let term = async {
        match tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate()) {
            Ok(mut s) => {
                s.recv().await;
            }
            Err(_) => std::future::pending().await,
        }
    };
    tokio::select! {
        _ = tokio::signal::ctrl_c() => {}
        () = term => {}
    }
}

/// Bytes of address space a decoder may take: the largest picture, its copy, the program.
const DECODER_BYTES: u64 = 2_000_000_000;
/// Seconds of processor time it may take.
const DECODER_SECONDS: u64 = 40;

/// The other end of the server's opening of pictures: bounds itself, then decodes what comes in.
pub(crate) fn decode() -> Result<(), Failure> {
    rlimit::setrlimit(rlimit::Resource::AS, DECODER_BYTES, DECODER_BYTES).map_err(anyhow::Error::from)?;
    rlimit::setrlimit(rlimit::Resource::CPU, DECODER_SECONDS, DECODER_SECONDS).map_err(anyhow::Error::from)?;
    server::decode_for_server(&mut std::io::stdin().lock(), &mut std::io::stdout().lock())
        .map_err(anyhow::Error::from)?;
    Ok(())
}
