//! The job file: reading, writing, its schema.

use super::Job;
use crate::problem::Problem;
use serde_json::Value;

/// Reads a job file. The whole job or nothing.
///
/// # Errors
/// What is wrong, each with its JSON path.
pub fn read_job(bytes: &[u8]) -> Result<Job, Vec<Problem>> {
    let one = |path: String, message: String| vec![Problem::new(path, message)];
    let text = std::str::from_utf8(bytes).map_err(|e| {
        one("$".into(), format!("the file is not UTF-8 text (byte {}): save it as UTF-8 JSON", e.valid_up_to()))
    })?;
    let mut de = serde_json::Deserializer::from_str(text.trim_start_matches('\u{feff}'));
    let mut job: Job = serde_path_to_error::deserialize(&mut de).map_err(|e| {
        let path = e.path().to_string();
        let path = if path == "." { "$".to_owned() } else { format!("$.{path}") };
        one(path, format!("{}; this is not a whole Kame job file", e.inner()))
    })?;
    de.end().map_err(|e| one("$".into(), format!("{e}; nothing may follow the job")))?;
    let problems = job.problems();
    if !problems.is_empty() {
        return Err(problems);
    }
    job.make_current();
    Ok(job)
}

/// The job as a file: readable JSON, from which exactly this job is read again.
pub fn write_job(job: &Job) -> String {
    let mut text = serde_json::to_string_pretty(job).unwrap_or_default();
    text.push('\n');
    text
}

/// The JSON Schema of a job file.
pub fn job_schema() -> Value {
    schemars::schema_for!(Job).to_value()
}
