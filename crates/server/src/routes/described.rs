//! What every operation has in common, written into the description in one place: the answers that come from around
//! the routes, and the shape of every error.

use serde_json::{Map, Value, json};

/// The answers that an operation may get from around its route.
struct Around<'a> {
    path: &'a str,
    method: &'a str,
    operation: &'a Map<String, Value>,
}

impl Around<'_> {
    fn has_parameters(&self) -> bool {
        self.operation.get("parameters").and_then(Value::as_array).is_some_and(|list| !list.is_empty())
    }

    fn takes(&self, media_type: &str) -> bool {
        self.operation.get("requestBody").is_some_and(|body| body["content"].get(media_type).is_some())
    }

    /// Status and what it means.
    fn answers(&self) -> Vec<(u16, &'static str)> {
        let mut all = vec![
            (421, "The request names another host than this server answers to."),
            (500, "Something in the server went wrong."),
            (
                503,
                "The database, or something else that is needed, cannot be reached, or too many connections are open.",
            ),
        ];
        if self.has_parameters() || self.operation.contains_key("requestBody") {
            all.push((400, "The address or the body cannot be read."));
        }
        if self.path.contains('{') {
            all.push((404, "There is nothing of that name."));
        }
        if self.method != "get" {
            all.push((403, "The change was asked for by another page than this server's own."));
        }
        if self.operation.contains_key("requestBody") {
            all.extend([
                (408, "The request did not arrive in time."),
                (413, "The request is too large."),
                (422, "Well-formed, and not possible; the detail says why."),
            ]);
        }
        if self.takes("application/json") {
            all.push((415, "The body is not declared as application/json."));
        }
        all
    }
}

/// The description with all that.
pub fn complete(mut description: Value) -> Value {
    kestrel_core::file::bound(&mut description);
    for (path, item) in description["paths"].as_object_mut().into_iter().flatten() {
        for (method, operation) in item.as_object_mut().into_iter().flatten() {
            if let Some(operation) = operation.as_object_mut() {
                complete_operation(path, method, operation);
            }
        }
    }
    description
}

fn complete_operation(path: &str, method: &str, operation: &mut Map<String, Value>) {
    let around = Around { path, method, operation }.answers();
    let Some(responses) = operation.get_mut("responses").and_then(Value::as_object_mut) else { return };
    for (status, meaning) in around {
        let answer = responses.entry(status.to_string()).or_insert_with(|| json!({}));
        if answer["description"].as_str().is_none_or(str::is_empty) {
            answer["description"] = json!(meaning);
        }
    }
    for (status, answer) in responses.iter_mut() {
        if status.starts_with(['4', '5']) {
            answer["content"] =
                json!({ "application/problem+json": { "schema": { "$ref": "#/components/schemas/Problem" } } });
        }
        if answer["description"].as_str().is_none_or(str::is_empty) {
            answer["description"] = json!(usual(status));
        }
    }
}

/// What a status means where nothing else is said of it.
fn usual(status: &str) -> &'static str {
    match status {
        "204" => "Done.",
        "404" => "There is nothing of that name.",
        "409" => "Made from an older version, or gone.",
        "410" => "The link was withdrawn.",
        "422" => "Well-formed, and not possible; the detail says why.",
        "502" => "A driver or gateway failed.",
        "503" => "The database, or something else that is needed, cannot be reached.",
        _ => "The answer.",
    }
}

#[cfg(test)]
mod tests {
    use serde_json::Value;

    fn operations(description: &Value) -> impl Iterator<Item = (&String, &String, &Value)> {
        let paths = description["paths"].as_object().unwrap().iter();
        paths.flat_map(|(path, item)| item.as_object().unwrap().iter().map(move |(method, op)| (path, method, op)))
    }

    #[test]
    fn every_error_of_every_operation_is_a_problem_and_says_what_it_means() {
        let description = crate::routes::api().1;
        let mut seen = 0;
        for (path, method, operation) in operations(&description) {
            for (status, answer) in operation["responses"].as_object().unwrap() {
                assert!(!answer["description"].as_str().unwrap().is_empty(), "{method} {path}: {status}");
                if status.starts_with(['4', '5']) {
                    let content = answer["content"].as_object().unwrap();
                    assert_eq!(content.keys().collect::<Vec<_>>(), ["application/problem+json"], "{method} {path}");
                    seen += 1;
                }
            }
            let body = operation.get("requestBody").is_some();
            for status in ["408", "413", "422"] {
                assert!(!body || operation["responses"].get(status).is_some(), "{method} {path}: {status}");
            }
        }
        assert!(seen > 300, "{seen} errors are described");
    }

    #[test]
    fn every_whole_number_has_a_least_and_a_greatest_value() {
        fn walk(value: &Value, at: &str, found: &mut Vec<String>) {
            if let Value::Object(fields) = value {
                let whole = fields.get("type").is_some_and(|kind| kind == "integer" || kind[0] == "integer");
                if whole && (fields.get("minimum").is_none() || fields.get("maximum").is_none()) {
                    found.push(at.to_owned());
                }
                fields.iter().for_each(|(name, value)| walk(value, &format!("{at}/{name}"), found));
            } else if let Value::Array(list) = value {
                list.iter().for_each(|value| walk(value, at, found));
            }
        }
        let mut found = Vec::new();
        walk(&crate::routes::api().1, "", &mut found);
        assert_eq!(found, Vec::<String>::new());
    }
}
