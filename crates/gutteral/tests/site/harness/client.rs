//! A client without a browser: for what a browser would not send.

use super::Site;
use reqwest::{Client, StatusCode, redirect::Policy};

pub struct Caller {
    pub http: Client,
    base: String,
    pub token: String,
}

pub struct Answer {
    pub status: StatusCode,
    pub location: String,
    pub headers: reqwest::header::HeaderMap,
    pub body: String,
}

impl Caller {
    /// A caller with cookies and a form token, not signed in.
    pub async fn new(site: &Site) -> Self {
        Self::to(&site.base).await
    }

    /// The same of any running application.
    pub async fn to(base: &str) -> Self {
        let http = Client::builder().cookie_store(true).redirect(Policy::none()).build().unwrap();
        let mut caller = Self { http, base: base.to_owned(), token: String::new() };
        let page = caller.get("/sign-in").await;
        caller.token = hidden(&page.body, "csrf");
        caller
    }

    pub async fn signed_in(site: &Site, email: &str) -> Self {
        let caller = Self::new(site).await;
        let entered = caller.post("/sign-in", &[("email", email), ("password", gutteral::demo::PASSWORD)]).await;
        assert_eq!((entered.status, entered.location.as_str()), (StatusCode::SEE_OTHER, "/docket"), "{}", entered.body);
        caller
    }

    /// The same browser, so to say, at another process. Cookies do not look at ports.
    pub fn at(&self, other: &Site) -> Self {
        Self { http: self.http.clone(), base: other.base.clone(), token: self.token.clone() }
    }

    /// Full address of a path.
    pub fn url(&self, path: &str) -> String {
        format!("{}{path}", self.base)
    }

    pub async fn get(&self, path: &str) -> Answer {
        self.send(self.http.get(format!("{}{path}", self.base))).await
    }

    pub async fn post(&self, path: &str, fields: &[(&str, &str)]) -> Answer {
        let mut all = vec![("csrf", self.token.as_str())];
        all.extend(fields);
        self.post_bare(path, &all).await
    }

    /// Without the token.
    pub async fn post_bare(&self, path: &str, fields: &[(&str, &str)]) -> Answer {
        self.send(self.http.post(format!("{}{path}", self.base)).form(fields)).await
    }

    pub async fn send(&self, request: reqwest::RequestBuilder) -> Answer {
        let response = request.send().await.unwrap();
        let headers = response.headers().clone();
        let location = headers.get("location").map_or("", |v| v.to_str().unwrap()).to_owned();
        Answer { status: response.status(), location, headers, body: response.text().await.unwrap() }
    }

    /// Address of the job whose name begins so.
    pub async fn job(&self, name: &str) -> String {
        let docket = self.get("/docket").await.body;
        let (before, _) = docket.split_once(name).unwrap_or_else(|| panic!("{name} is not on the docket"));
        let (_, link) = before.rsplit_once("href=\"/jobs/").unwrap();
        format!("/jobs/{}", link.split(['"', '/']).next().unwrap())
    }
}

/// Value of a hidden field.
pub fn hidden(html: &str, name: &str) -> String {
    let (_, rest) =
        html.split_once(&format!("name=\"{name}\" value=\"")).unwrap_or_else(|| panic!("no {name} in {html}"));
    rest.split('"').next().unwrap().to_owned()
}

/// The first choice of a list in a page.
pub fn first_choice(html: &str, name: &str) -> String {
    let (_, list) =
        html.split_once(&format!("<select name=\"{name}\"")).unwrap_or_else(|| panic!("no {name} in {html}"));
    list.split_once("<option value=\"").unwrap().1.split('"').next().unwrap().to_owned()
}

/// First address in a page that holds these words.
pub fn link(html: &str, words: &str) -> String {
    let found = html.split("href=\"").skip(1).filter_map(|r| r.split('"').next()).find(|h| h.contains(words));
    found.unwrap_or_else(|| panic!("no link with {words}")).replace("&amp;", "&").replace("&#38;", "&")
}
