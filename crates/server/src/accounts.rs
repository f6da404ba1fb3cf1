//! Accounts: signing up, in and out.

use crate::App;
use crate::problem::{Answer, Body, Problem};
use crate::records::admin::{SignUp, claim_invitation, give_back_invitation, sign_up as sign_up_rule};
use crate::records::removal::remove_account;
pub use crate::records::roles::Role;
use crate::tries;
use crate::work::Work;
use axum::Json;
use axum::extract::{FromRequestParts, State};
use axum::http::StatusCode;
use axum::http::request::Parts;
use axum_login::{AuthUser, AuthnBackend, UserId};
use serde::{Deserialize, Serialize};
use sqlx::PgPool;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(sign_up)).routes(routes!(remove_me)).routes(routes!(who, sign_in, sign_out))
}

/// A signed-in person, as the session knows them.
#[derive(Debug, Clone, sqlx::FromRow)]
pub struct Account {
    /// Id.
    pub id: Uuid,
    /// Address to sign in with.
    pub email: String,
    /// Name shown.
    pub name: String,
    /// administrator, instructor or student.
    pub role: String,
    password_hash: String,
}

impl AuthUser for Account {
    type Id = Uuid;

    fn id(&self) -> Uuid {
        self.id
    }

    /// Sessions end when the password changes.
    fn session_auth_hash(&self) -> &[u8] {
        self.password_hash.as_bytes()
    }
}

/// Longest password in bytes: 200 characters of at most four.
const LONGEST_PASSWORD: usize = 800;

/// The accounts table as an authentication backend.
#[derive(Clone)]
pub struct Backend {
    pub(crate) pool: PgPool,
    pub(crate) work: Work,
}

/// E-mail address and password.
#[derive(Clone, Deserialize, ToSchema)]
pub struct Credentials {
    /// Address the account was made with.
    pub email: String,
    /// Password.
    pub password: String,
}

impl AuthnBackend for Backend {
    type User = Account;
    type Credentials = Credentials;
    type Error = sqlx::Error;

    async fn authenticate(&self, c: Credentials) -> Result<Option<Account>, sqlx::Error> {
        let account: Option<Account> =
            sqlx::query_as("select id, email, name, role, password_hash from accounts where lower(email) = lower($1)")
                .bind(c.email.trim())
                .fetch_optional(&self.pool)
                .await?;
        // Argon2id takes its time, also for unknown addresses, so that they cannot be told apart.
        let checked = self.work.hash(move || match account {
            Some(a) => password_auth::verify_password(&c.password, &a.password_hash).ok().map(|()| a),
            None => {
                let _ = password_auth::generate_hash(&c.password);
                None
            }
        });
        checked.await.map_err(|p| sqlx::Error::Io(std::io::Error::other(p.detail)))
    }

    async fn get_user(&self, id: &UserId<Self>) -> Result<Option<Account>, sqlx::Error> {
        sqlx::query_as("select id, email, name, role, password_hash from accounts where id = $1")
            .bind(id)
            .fetch_optional(&self.pool)
            .await
    }
}

/// The session of a request.
pub type AuthSession = axum_login::AuthSession<Backend>;

/// Extractor: the signed-in person, or 401.
pub struct Me(pub Account);

impl<S: Send + Sync> FromRequestParts<S> for Me {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Problem> {
        let session =
            AuthSession::from_request_parts(parts, state).await.map_err(|(_, text)| Problem::internal(text))?;
        session.user.map(Me).ok_or_else(Problem::signed_out)
    }
}

/// Who is signed in.
#[derive(Debug, Serialize, ToSchema)]
pub struct Person {
    /// Id.
    pub id: Uuid,
    /// Address.
    pub email: String,
    /// Name.
    pub name: String,
    /// Role.
    pub role: Role,
}

impl From<Account> for Person {
    fn from(a: Account) -> Self {
        Person { role: Role::of(&a.role), id: a.id, email: a.email, name: a.name }
    }
}

/// A new account.
#[derive(Deserialize, ToSchema)]
pub struct NewAccount {
    /// Name shown to others.
    pub name: String,
    /// Address to sign in with.
    pub email: String,
    /// At least ten characters.
    pub password: String,
    /// Code of an invitation, where accounts are made by invitation.
    #[serde(default)]
    pub invitation: Option<String>,
}

/// Makes an account; used by sign-up and by the demo data.
pub(crate) async fn create(app: &App, new: NewAccount, role: &str) -> Answer<Account> {
    let (name, email) = (new.name.trim().to_owned(), new.email.trim().to_owned());
    if name.is_empty() || name.chars().count() > 80 {
        return Err(Problem::bad("A name of 1 to 80 characters is needed."));
    }
    let at = email.find('@').unwrap_or(0);
    if at == 0 || at + 1 >= email.len() || email.len() > 200 || email.contains(char::is_whitespace) {
        return Err(Problem::bad("That does not look like an e-mail address."));
    }
    let length = new.password.chars().count();
    if !(10..=200).contains(&length) {
        return Err(Problem::bad("The password needs 10 to 200 characters; a sentence is fine."));
    }
    let hash = app.work.hash(move || password_auth::generate_hash(new.password)).await?;
    let account = Account { id: Uuid::now_v7(), email, name, role: role.into(), password_hash: hash };
    let done = sqlx::query(
        "insert into accounts (id, email, name, role, password_hash) values ($1, $2, $3, $4, $5) on conflict do nothing",
    )
    .bind(account.id)
    .bind(&account.email)
    .bind(&account.name)
    .bind(&account.role)
    .bind(&account.password_hash)
    .execute(&app.pool)
    .await?;
    if done.rows_affected() == 0 {
        return Err(Problem::conflict("There is an account with this address already: sign in instead."));
    }
    Ok(account)
}

async fn open(session: &mut AuthSession, account: Account) -> Answer<Json<Person>> {
    // a new session id at every sign-in
    session.session.cycle_id().await.map_err(Problem::internal)?;
    session.login(&account).await.map_err(Problem::internal)?;
    Ok(Json(account.into()))
}

/// Make an account (student) and sign in.
#[utoipa::path(post, path = "/accounts", request_body = NewAccount, tag = "accounts",
    responses((status = 200, body = Person), (status = 400, body = Problem), (status = 409, body = Problem)))]
async fn sign_up(
    State(app): State<App>,
    mut session: AuthSession,
    Body(new): Body<NewAccount>,
) -> Answer<Json<Person>> {
    // a class that signs up together is not turned away
    tries::allow(&app, "sign-up", tries::SIGN_UPS).await?;
    let invitation = new.invitation.clone().filter(|c| !c.trim().is_empty());
    let role = match (sign_up_rule(&app).await?, &invitation) {
        (SignUp::Closed, _) => {
            return Err(Problem::forbidden("No new accounts are made here: ask whoever runs this server."));
        }
        (SignUp::Invited, None) => {
            return Err(Problem::forbidden(
                "Accounts are made by invitation here: ask whoever runs this server for a code.",
            ));
        }
        (SignUp::Open, None) => Role::Student,
        (_, Some(code)) => claim_invitation(&app, code).await?,
    };
    let account = match (create(&app, new, role.word()).await, invitation) {
        (Err(p), Some(code)) => {
            give_back_invitation(&app, &code).await?;
            return Err(p);
        }
        (made, _) => made?,
    };
    open(&mut session, account).await
}

fn mismatch() -> Problem {
    let mut p = Problem::signed_out();
    p.detail = "Address and password do not match an account.".into();
    p
}

/// Sign in.
#[utoipa::path(post, path = "/session", request_body = Credentials, tag = "accounts",
    responses((status = 200, body = Person), (status = 401, body = Problem), (status = 429, body = Problem)))]
async fn sign_in(State(app): State<App>, mut session: AuthSession, Body(c): Body<Credentials>) -> Answer<Json<Person>> {
    // what cannot be an address or a password of ours costs nothing
    if c.email.trim().len() > tries::LONGEST_ADDRESS || c.password.len() > LONGEST_PASSWORD {
        return Err(mismatch());
    }
    tries::allow(&app, &c.email, tries::SIGN_INS).await?;
    match session.authenticate(c).await.map_err(Problem::internal)? {
        Some(account) => open(&mut session, account).await,
        None => Err(mismatch()),
    }
}

/// Who is signed in; `null` for nobody.
#[utoipa::path(get, path = "/session", tag = "accounts", responses((status = 200, body = Option<Person>)))]
async fn who(session: AuthSession) -> Json<Option<Person>> {
    Json(session.user.map(Person::from))
}

/// Sign out.
#[utoipa::path(delete, path = "/session", tag = "accounts", responses((status = 204)))]
async fn sign_out(mut session: AuthSession) -> Answer<StatusCode> {
    session.logout().await.map_err(Problem::internal)?;
    Ok(StatusCode::NO_CONTENT)
}

/// A password, to be sure.
#[derive(Deserialize, ToSchema)]
pub struct Surely {
    /// Password of the account.
    pub password: String,
}

/// Remove my account with all that is kept of me. Points stay where a class keeps them.
#[utoipa::path(delete, path = "/account", tag = "accounts", request_body = Surely,
    responses((status = 204), (status = 401, body = Problem), (status = 403, body = Problem), (status = 409, body = Problem)))]
async fn remove_me(
    State(app): State<App>,
    mut session: AuthSession,
    Me(me): Me,
    Body(s): Body<Surely>,
) -> Answer<StatusCode> {
    tries::allow(&app, &me.email, tries::SIGN_INS).await?;
    if s.password.len() > LONGEST_PASSWORD {
        return Err(Problem::forbidden("That is not the password of this account."));
    }
    let hash = me.password_hash.clone();
    let right = app.work.hash(move || password_auth::verify_password(&s.password, &hash).is_ok()).await?;
    if !right {
        return Err(Problem::forbidden("That is not the password of this account."));
    }
    remove_account(&app, me.id, Role::of(&me.role)).await?;
    session.logout().await.map_err(Problem::internal)?;
    Ok(StatusCode::NO_CONTENT)
}
