//! The REST interface. The route table stands here on one screen.

mod account;
mod body;
mod calendar;
mod checks;
mod files;
mod firm;
mod instruments;
mod jobs;
mod me;
mod onsite;
mod papers;
mod password;
mod people;
mod photos;
mod practice;
mod record;
mod repairs;
mod schools;
mod truck;
mod types;

pub use types::JobAnswer;

use crate::App;
use axum::Router;
use axum::body::Bytes;
use axum::http::{HeaderValue, header};
use axum::routing::get;
use utoipa::OpenApi;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The largest body that is taken.
pub const LARGEST_BODY: usize = 2 * 1024 * 1024;

#[derive(OpenApi)]
#[openapi(
    components(schemas(kame_core::purchase::Progress)),
    info(
        title = "Kame",
        description = "The wall as a sequence of actions, and everything computed from it. Lengths are text in feet-inches-fractions or metric; drawing coordinates are inches, x right, y down. With the header Accept-Language: es the core's own words in answers (cards, checks, parts, findings, verdict, tonight, questions) are Spanish; names that people gave, ids and everything kept are as they are."
    )
)]
struct Description;

fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::with_openapi(Description::openapi())
        .merge(firm_routes())
        .merge(planning_routes())
        .merge(on_the_wall_routes())
        .merge(bench_routes())
}

/// People, all jobs at once, and how the data is kept.
fn firm_routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(jobs::deleted))
        .routes(routes!(jobs::health))
        .routes(routes!(me::me))
        .routes(routes!(people::sign_in))
        .routes(routes!(people::sign_out))
        .routes(routes!(people::sign_out_everywhere))
        .routes(routes!(people::new_password))
        .routes(routes!(account::prove_again))
        .routes(routes!(account::offer))
        .routes(routes!(account::set_second))
        .routes(routes!(account::remove_second))
        .routes(routes!(account::remove_second_of))
        .routes(routes!(account::saw))
        .routes(routes!(account::all_of_me))
        .routes(routes!(people::join))
        .routes(routes!(people::people))
        .routes(routes!(people::set_role))
        .routes(routes!(people::offboard))
        .routes(routes!(people::invitations, people::invite))
        .routes(routes!(people::take_back))
        .routes(routes!(people::audit))
        .routes(routes!(people::shares, people::share))
        .routes(routes!(people::take_back_share))
        .routes(routes!(firm::job_progress))
        .routes(routes!(firm::put_aside))
        .routes(routes!(firm::find))
        .routes(routes!(firm::ways, firm::keep_way))
        .routes(routes!(firm::way, firm::forget_way))
        .routes(routes!(firm::way_here))
}

/// A job and its plan.
fn planning_routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(jobs::list, jobs::create))
        .routes(routes!(jobs::read, jobs::delete))
        .routes(routes!(jobs::restore))
        .routes(routes!(jobs::history, jobs::back_to))
        .routes(routes!(jobs::copy))
        .routes(routes!(jobs::edit))
        .routes(routes!(jobs::tick))
        .routes(routes!(jobs::changes))
        .routes(routes!(jobs::undo))
        .routes(routes!(jobs::redo))
        .routes(routes!(jobs::preview))
        .routes(routes!(schools::nights))
        .routes(routes!(schools::place_heads))
        .routes(routes!(schools::remedies))
        .routes(routes!(schools::choice_pictures))
        .routes(routes!(schools::compare))
        .routes(routes!(schools::strategy))
}

/// Work on the wall, its record, repairs and practice.
fn on_the_wall_routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(checks::checks))
        .routes(routes!(checks::pictures))
        .routes(routes!(record::add, record::recorded))
        .routes(routes!(record::told))
        .routes(routes!(record::verify))
        .routes(routes!(record::file))
        .routes(routes!(record::stands))
        .routes(routes!(record::judged))
        .routes(routes!(photos::keep_photo, photos::photo))
        .routes(routes!(instruments::instruments))
        .routes(routes!(instruments::read_instrument))
        .routes(routes!(onsite::fits))
        .routes(routes!(onsite::may_go))
        .routes(routes!(onsite::tested))
        .routes(routes!(onsite::expected))
        .routes(routes!(onsite::walked))
        .routes(routes!(onsite::handed))
        .routes(routes!(onsite::still_holds))
        .routes(routes!(practice::practice_scene))
        .routes(routes!(practice::practice_sheet))
        .routes(routes!(practice::practice_laid))
        .routes(routes!(practice::practice_mends))
        .routes(routes!(practice::practice_played))
        .routes(routes!(practice::practice_hint))
        .routes(routes!(practice::practice_answer))
        .routes(routes!(practice::practice_progress))
        .routes(routes!(repairs::kinds_found))
        .routes(routes!(repairs::mending))
        .routes(routes!(papers::paper))
        .routes(routes!(papers::record_table))
        .routes(routes!(papers::archive))
        .routes(routes!(papers::take_archive))
        .routes(routes!(papers::damage))
        .routes(routes!(papers::handover_paper))
        .routes(routes!(papers::place_labels))
}

/// Days, the truck, and files in and out.
fn bench_routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(calendar::calendar))
        .routes(routes!(calendar::calendar_hour))
        .routes(routes!(calendar::steps_by_day))
        .routes(routes!(calendar::minutes_taken))
        .routes(routes!(calendar::calendar_file))
        .routes(routes!(calendar::calendar_table))
        .routes(routes!(truck::truck))
        .routes(routes!(truck::truck_progress))
        .routes(routes!(truck::truck_file))
        .routes(routes!(truck::read_kit))
        .routes(routes!(truck::read_profile))
        .routes(routes!(truck::profile))
        .routes(routes!(truck::mixed))
        .routes(routes!(files::import))
        .routes(routes!(files::model))
        .routes(routes!(files::newer_model))
        .routes(routes!(files::noted_model))
        .routes(routes!(files::export))
        .routes(routes!(files::cut_list))
        .routes(routes!(files::drawing))
        .routes(routes!(files::layup))
        .routes(routes!(files::schedule))
        .routes(routes!(files::features))
        .routes(routes!(files::water))
        .routes(routes!(files::job_schema))
        .routes(routes!(files::layup_schema))
}

/// The description of the interface, from the handlers.
pub fn description() -> utoipa::openapi::OpenApi {
    routes().into_openapi()
}

/// The interface as a router.
pub fn router() -> Router<App> {
    let (router, description) = routes().split_for_parts();
    // Written once: routes are copied for each connection.
    let text = Bytes::from(serde_json::to_vec(&description).unwrap_or_default());
    let json = [(header::CONTENT_TYPE, HeaderValue::from_static("application/json"))];
    router
        .route("/api/openapi.json", get(async move || (json, text)))
        // Opened by a browser from a letter: no part of the interface that programs use.
        .route("/share/{code}", get(people::open_share))
}
