//! Pages in the language of whoever reads: theirs by choice, a client's by their browser.

use crate::harness::Site;
use crate::harness::client::{Caller, hidden};
use building::Structure;
use gutteral::demo::{ENTRY, PASSWORD};
use language::Language;
use reqwest::StatusCode;
use store::{Role, Worst};
use uuid::Uuid;

#[tokio::test(flavor = "multi_thread")]
async fn somebody_reads_in_their_language() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let english = caller.get("/docket").await.body;
    assert!(english.contains("<html lang=\"en-US\"") && english.contains("worst: condensing"), "{english}");
    assert_eq!(
        caller.post("/preferences", &[("language", "tlh"), ("back", "/me")]).await.status,
        StatusCode::UNPROCESSABLE_ENTITY
    );
    assert_eq!(caller.post("/preferences", &[("language", "es"), ("back", "/me")]).await.location, "/me");
    let spanish = caller.get("/docket").await.body;
    for said in [
        "<html lang=\"es\"",
        ">Trabajos</h1>",
        "lo peor: condensa",
        "Vivienda redonda de fieltro",
        "La visita 3 terminó el 14 de julio de 2026.",
    ] {
        assert!(spanish.contains(said), "{said}: {spanish}");
    }
    for said in ["worst:", ">Docket<", "Round<", "July ", "Due ", ">Name or address<"] {
        assert!(!spanish.contains(said), "{said}: {spanish}");
    }
    let me = caller.get("/me").await.body;
    assert!(
        me.contains("Segundo factor") && me.contains("responsable") && me.contains("selected>Español</option>"),
        "{me}"
    );
    let wrong = caller.post("/me", &[("id", &*Uuid::now_v7().to_string()), ("act", "name"), ("name", "")]).await;
    assert!(wrong.status == StatusCode::UNPROCESSABLE_ENTITY && wrong.body.contains("Segundo factor"));
    assert!(me.contains("<td>contraseña"), "{me}");
    let people = caller.get("/people").await.body;
    assert!(
        people.contains("Invitar a alguien") && people.contains("sesión abierta") && people.contains(">técnico<"),
        "{people}"
    );
    let practice = caller.get("/practice").await.body;
    assert!(
        practice.contains("Cuánto se guarda") && practice.contains(">un año<") && practice.contains(">90 días<"),
        "{practice}"
    );
    assert!(caller.get("/people/audit").await.body.contains("Qué se hizo, y quién</h1>"));
    assert!(caller.get("/calendar").await.body.contains("Para volver a mirar"));
    // Whoever is not in yet is spoken to as their browser asks.
    let stranger = Caller::new(&site).await;
    let door = async |path: &str| {
        let asked = stranger.http.get(stranger.url(path)).header("accept-language", "es-MX,en;q=0.5");
        asked.send().await.unwrap().text().await.unwrap()
    };
    let page = door("/sign-in").await;
    assert!(page.contains("<html lang=\"es\"") && page.contains("Contraseña") && !page.contains("Password"), "{page}");
    // Pages of a job and what they judge, too, with dates and figures as they are written there.
    let cottage = caller.job("Mill keeper").await;
    for (at, said) in [
        ("", "Qué muestra esta visita"),
        ("", "Manténgalo cerrado."),
        ("", "punto de rocío 23,9"),
        ("/round", "Espacio confinado: no entre nunca solo."),
        ("/findings", "Suelo descubierto"),
        ("/why", "Vapor del suelo"),
        ("/plan", "Retirar y limpiar"),
        ("/log", "Qué se dibuja"),
        ("/proof", "Antes y después"),
    ] {
        let page = caller.get(&format!("{cottage}{at}")).await.body;
        assert!(page.contains(said) && page.contains("<html lang=\"es\""), "{at}: {said}: {page}");
    }
    let refused = caller.post("/jobs/new", &[("id", &*Uuid::now_v7().to_string()), ("name", "")]).await;
    assert!(
        refused.status == StatusCode::UNPROCESSABLE_ENTITY && refused.body.contains("Elija el clima."),
        "{}",
        refused.body
    );
    // A visit's report is in the language of whoever reads it.
    let of = caller.get(&format!("{cottage}/report")).await.location;
    let report = caller.get(&of).await.body;
    assert!(report.contains("Informes para quien los lee"), "{report}");
    let (_, article) = report.split_once("<article>").unwrap();
    assert!(
        article.contains("Rigen las normas locales") && !article.contains("Local code and licensed practice govern.")
    );
    // What tables call things is there in the other language, too.
    for (table, id, english) in Structure::ALL
        .iter()
        .map(|s| ("structure", s.id(), s.words()))
        .chain(Worst::ALL.iter().map(|w| ("worst", w.id(), w.words())))
        .chain(Role::ALL.iter().map(|r| ("role", r.id(), r.words())))
    {
        assert_ne!(Language::Spanish.word(table, id, english), english);
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn whoever_is_new_begins_with_the_units_and_language_of_the_practice() {
    let site = Site::start().await;
    let lead = Caller::signed_in(&site, ENTRY).await;
    let page = lead.get("/practice").await.body;
    let was = |name: &str| hidden(&page, name).replace("&#39;", "'");
    let keep = async |units: &str, language: &str| {
        let fields = [
            ("id", Uuid::now_v7().to_string()),
            ("name", was("was_name")),
            ("was_name", was("was_name")),
            ("address", was("was_address")),
            ("was_address", was("was_address")),
            ("zone", was("was_zone")),
            ("was_zone", was("was_zone")),
            ("units", units.into()),
            ("was_units", was("was_units")),
            ("language", language.into()),
            ("was_language", was("was_language")),
        ];
        let fields: Vec<(&str, &str)> = fields.iter().map(|(k, v)| (*k, v.as_str())).collect();
        lead.post("/practice", &fields).await
    };
    for (units, language) in [("stone", "es"), ("us", "xx")] {
        assert_eq!(keep(units, language).await.status, StatusCode::UNPROCESSABLE_ENTITY, "{units} {language}");
    }
    assert_eq!(keep("us", "es").await.status, StatusCode::SEE_OTHER);
    let invite = [
        ("id", &*Uuid::now_v7().to_string()),
        ("act", "invite"),
        ("name", "Fern"),
        ("email", "fern@x.example"),
        ("role", "technician"),
    ];
    let made = lead.post("/people", &invite).await;
    let (_, at) = made.body.split_once("/join/").unwrap();
    let fern = Caller::new(&site).await;
    let join = format!("/join/{}", at.split('"').next().unwrap());
    assert_eq!(fern.post(&join, &[("name", "Fern"), ("new_password", PASSWORD)]).await.status, StatusCode::SEE_OTHER);
    let begins = site.text("select units || ' ' || language from consultant where email = 'fern@x.example'").await;
    assert_eq!(begins, "us es");
    let fern = Caller::signed_in(&site, "fern@x.example").await;
    assert!(fern.get("/docket").await.body.contains(">Trabajos</h1>"));
    assert!(lead.get("/docket").await.body.contains(">Docket</h1>"), "whoever was here keeps theirs");
}
