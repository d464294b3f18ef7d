// The rules of the house that a compiler does not check.
#include "programs.hpp"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <map>
#include <regex>
#include <set>
#include <sstream>

namespace fs = std::filesystem;

namespace {

struct Include {
    std::string file; ///< relative to the root
    std::string what;
    bool quoted;
};

std::vector<fs::path> sources(const std::string &folder) {
    std::vector<fs::path> files;
    for (const auto &e : fs::recursive_directory_iterator(fs::path(HERON_SOURCE) / folder))
        if (e.path().extension() == ".cpp" || e.path().extension() == ".hpp")
            files.push_back(e.path());
    return files;
}

std::vector<Include> includes(const std::string &folder) {
    static const std::regex line(R"(^\s*#\s*include\s*([<"])([^>"]+)[>"])");
    std::vector<Include> found;
    for (const auto &path : sources(folder)) {
        std::ifstream in(path);
        std::string text;
        while (std::getline(in, text)) {
            std::smatch m;
            if (std::regex_search(text, m, line))
                found.push_back({fs::relative(path, HERON_SOURCE).string(), m[2], m[1] == "\""});
        }
    }
    return found;
}

// What each folder of core may include besides itself.
const std::map<std::string, std::set<std::string>> &allowed() {
    static const std::map<std::string, std::set<std::string>> arrows = [] {
        std::map<std::string, std::set<std::string>> a;
        const std::set<std::string> ground{"fault", "files", "version"};
        const auto with = [](std::set<std::string> s, const std::set<std::string> &more) {
            s.insert(more.begin(), more.end());
            return s;
        };
        a["fault"] = a["version"] = {};
        a["files"] = {"fault"};
        a["units"] = a["water"] = a["geo"] = ground;
        const auto words = with(ground, {"units", "water", "geo"});
        a["sonar"] = words;
        const auto told = with(words, {"sonar"});
        a["link"] = a["recording"] = a["picture"] = told;
        a["trip"] = with(told, {"recording", "picture"});
        const auto kept = with(told, {"recording", "picture", "trip"});
        a["tuning"] = a["bottom"] = kept;
        a["reading"] = with(kept, {"bottom", "around"});
        const auto read = with(kept, {"tuning", "bottom", "around", "reading"});
        a["marks"] = read;
        a["around"] = kept;
        a["plan"] = words;
        a["screen"] = with(read, {"link"}); // looked at live it speaks as a sounder does
        a["practice"] = a["exchange"] = a["look"] = a["sharing"] = a["story"] =
            with(read, {"marks", "screen"});
        return a;
    }();
    return arrows;
}

} // namespace

TEST(House, ArrowsBetweenTheFoldersOfCorePointOneWay) {
    for (const auto &i : includes("core")) {
        EXPECT_FALSE(i.what.starts_with("Q")) << i.file << " includes Qt: " << i.what;
        if (!i.quoted)
            continue;
        const auto from = i.file.substr(5, i.file.find('/', 5) - 5), to = i.what.substr(0, i.what.find('/'));
        ASSERT_TRUE(allowed().contains(from)) << "no arrow is drawn for core/" << from;
        EXPECT_TRUE(from == to || allowed().at(from).contains(to)) << i.file << " includes " << i.what;
    }
}

TEST(House, TheStandInIsKnownOnlyAsADeviceOnASocket) {
    for (const char *folder : {"core", "app", "cli"})
        for (const auto &i : includes(folder))
            EXPECT_FALSE(i.what.starts_with("sim/")) << i.file << " includes " << i.what;
    for (const auto &i : includes("sim"))
        EXPECT_FALSE(i.what.starts_with("app/") || i.what.starts_with("cli/")) << i.file;
}

// Its templates are compiled once; a file that takes the library's own header compiles them again.
TEST(House, JsonComesInByOneHeader) {
    std::size_t seen = 0;
    for (const char *folder : {"core", "sim", "cli", "study", "app", "tests", "fuzz", "bench"})
        for (const auto &i : includes(folder)) {
            seen += i.what == "files/json.hpp";
            EXPECT_TRUE(i.what != "nlohmann/json.hpp" || i.file == "core/files/json.hpp") << i.file;
        }
    EXPECT_GT(seen, 20U);
}

// The layers of the window's part: each may include itself and those before it. Models and views stand side
// by side in one layer each; a view knows no other view, a model those that stand before it.
TEST(House, ArrowsBetweenTheLayersOfTheWindowPointOneWay) {
    const std::vector<std::string> order{"kit",      "ingest", "session", "marks", "tuning", "reading",
                                         "passes",   "around", "chart",   "story", "speech", "way",
                                         "practice", "parts",  "views",   "window"};
    const auto layer = [&](const std::string &folder) {
        return std::find(order.begin(), order.end(), folder) - order.begin();
    };
    std::size_t seen = 0;
    for (const auto &i : includes("app")) {
        if (!i.quoted || fs::exists(fs::path(HERON_SOURCE) / "core" / i.what))
            continue;
        ASSERT_TRUE(fs::exists(fs::path(HERON_SOURCE) / "app" / i.what))
            << i.file << " includes " << i.what << ": name it from app/ on";
        ++seen;
        const auto inside = i.file.substr(4);
        const auto slash = inside.find('/');
        if (slash == std::string::npos)
            continue; // main and the list of places know all
        const auto from = inside.substr(0, slash), to = i.what.substr(0, i.what.find('/'));
        ASSERT_LT(layer(from), std::ssize(order)) << "no layer is named " << from;
        ASSERT_LT(layer(to), std::ssize(order)) << i.file << " includes " << i.what;
        EXPECT_LE(layer(to), layer(from)) << i.file << " includes " << i.what;
        if (from == "views" && to == "views") {
            const auto view_of = [](const std::string &path) { return path.substr(0, path.find('/', 6)); };
            EXPECT_EQ(view_of(inside), view_of(i.what)) << i.file << " includes " << i.what;
        }
        if (from == "kit")
            EXPECT_EQ(to, "kit") << i.file << " includes " << i.what;
    }
    EXPECT_GT(seen, 200u);
}

// Kit knows no sounder, the session no widget, and only the window's thread runs widgets.
TEST(House, NeitherIngestNorSessionNorModelsKnowWidgets) {
    const std::set<std::string> widgets{"QWidget", "QApplication", "QPainter", "QDialog", "QMenu"};
    for (const char *folder :
         {"app/ingest", "app/session", "app/marks", "app/tuning", "app/reading", "app/passes", "app/chart",
          "app/story", "app/speech", "app/way", "app/practice"})
        for (const auto &i : includes(folder))
            EXPECT_FALSE(widgets.contains(i.what)) << i.file << " includes " << i.what;
}

// Words on the screen go through tr(); names of objects, glyphs, styles and keys of settings are no words.
TEST(House, EveryShownTextCanBeTranslated) {
    static const std::regex literal(R"re((?:QStringLiteral|QLatin1String)\("((?:[^"\\]|\\.)*)"\))re");
    static const std::regex words(R"([A-Za-z]{2,} [a-z]{2,})");
    for (const auto &path : sources("app")) {
        if (path.filename() == "main.cpp" || path.filename() == "tour.cpp")
            continue; // options of the command line; what the tour types in
        const auto text = heron::test::contents(path.string());
        for (std::sregex_iterator i(text.begin(), text.end(), literal), end; i != end; ++i) {
            const auto said = (*i)[1].str();
            const bool style = said.find('{') != std::string::npos || said.find(':') != std::string::npos;
            EXPECT_FALSE(!style && std::regex_search(said, words)) << path << ": " << said;
        }
        EXPECT_EQ(text.find("drawText(QPointF(0, 0), \""), std::string::npos);
    }
}

TEST(House, NothingReadsOutsideTheCheckout) {
    for (const char *folder : {"core", "sim", "app", "cli", "bench"})
        for (const auto &path : sources(folder))
            EXPECT_EQ(heron::test::contents(path.string()).find("../shared"), std::string::npos) << path;
}

// Every page that a page or the README names is there.
TEST(House, LinksInTheDocsLeadSomewhere) {
    static const std::regex link(R"(\]\(([^)#:]+)(?:#[^)]*)?\))");
    std::vector<fs::path> pages{fs::path(HERON_SOURCE) / "README.md"};
    for (const auto &e : fs::recursive_directory_iterator(fs::path(HERON_SOURCE) / "docs"))
        if (e.path().extension() == ".md")
            pages.push_back(e.path());
    EXPECT_GT(pages.size(), 5u);
    for (const auto &page : pages) {
        const auto text = heron::test::contents(page.string());
        for (std::sregex_iterator i(text.begin(), text.end(), link), end; i != end; ++i)
            EXPECT_TRUE(fs::exists(page.parent_path() / (*i)[1].str())) << page << " names " << (*i)[1].str();
    }
}

// And every page named in a comment of the code.
TEST(House, PagesNamedInTheCodeAreThere) {
    static const std::regex page(R"(docs/[a-z0-9/-]+\.md)");
    for (const char *folder : {"core", "sim", "app", "cli", "tests", "bench"})
        for (const auto &path : sources(folder)) {
            const auto text = heron::test::contents(path.string());
            for (std::sregex_iterator i(text.begin(), text.end(), page), end; i != end; ++i)
                EXPECT_TRUE(fs::exists(fs::path(HERON_SOURCE) / i->str())) << path << " names " << i->str();
        }
}
