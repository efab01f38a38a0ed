// A tool that never harms: outputs and inputs, links, pipes and devices, signals, full disks, broken calls.
#include "support/command.h"

#include <chrono>
#include <csignal>
#include <regex>
#include <thread>

#include <fcntl.h>
#include <sys/stat.h>

namespace astasis {
namespace {

namespace fs = std::filesystem;
using test::Outcome;
using test::scene;

bool has(const Outcome& outcome, const std::string& text) {
    return outcome.out.find(text) != std::string::npos;
}

class Manners : public test::InFolder {
protected:
    // A scene of the demo in the test's own folder.
    void take(const char* name, const std::string& as) const {
        fs::copy_file(std::string(ASTASIS_SCENES) + "/" + name, folder_ / as);
    }
};

const char* const kBox = R"({"astasis_scene": 1, "dimension": 2, "duration": 1, "bodies": [
    {"name": "box", "at": [0, 3], "shapes": [{"shape": "box", "size": [1, 1]}]}]})";

TEST_F(Manners, OutputsAreNeverInputs) {
    take("two_pucks.json", "a.json");
    take("tote_bin.json", "bin.json"), take("tote_bin.rays.json", "r.json");
    take("drum_floor.json", "drums.json"), take("dented_floor.obj", "dented_floor.obj");
    fs::create_symlink("a.json", folder_ / "link.json");
    fs::create_hard_link(folder_ / "a.json", folder_ / "hard.json");
    fs::create_directory(folder_ / "sub");
    fs::create_symlink("../a.json", folder_ / "sub" / "link.json");
    const auto before = files();
    const std::string scene_text = read("a.json"), rays = read("r.json"), mesh = read("dented_floor.obj");
    for (const char* call :
         {"run a.json --csv a.json", "run a.json --csv link.json", "run link.json --csv a.json",
          "run a.json --csv ./sub/../a.json", "run a.json --csv hard.json",
          "run a.json --events-csv sub/link.json", "run a.json --impacts-csv a.json",
          "run a.json --contacts-csv a.json", "draw bin.json --picture x.png --rays r.json --hits-csv r.json",
          "run bin.json --rays r.json --csv r.json", "run drums.json --csv dented_floor.obj"}) {
        const Outcome o = astasis(call);
        EXPECT_EQ(o.status, 2) << call;
        EXPECT_TRUE(has(o, "it would be overwritten")) << call << "\n" << o.out;
        EXPECT_EQ(files(), before) << call;
    }
    EXPECT_EQ(read("a.json"), scene_text);
    EXPECT_EQ(read("r.json"), rays);
    EXPECT_EQ(read("dented_floor.obj"), mesh);
}

TEST_F(Manners, TwoOutputsAreTwoFiles) {
    write("s.json", kBox);
    fs::create_symlink("x.csv", folder_ / "y.csv"); // to what is not there yet
    for (const char* call :
         {"run s.json --csv x.csv --events-csv x.csv", "run s.json --csv x.csv --events-csv ./x.csv",
          "run s.json --csv y.csv --impacts-csv x.csv"}) {
        const Outcome o = astasis(call);
        EXPECT_EQ(o.status, 2) << call;
        EXPECT_TRUE(has(o, "is the same file as --csv")) << o.out;
    }
    EXPECT_EQ(astasis("run s.json --csv /dev/null --events-csv /dev/null").status, 0);
    EXPECT_EQ(files(), (std::vector<std::string>{"s.json", "y.csv"}));
}

TEST_F(Manners, LinksPipesAndDevicesAreWrittenThrough) {
    write("s.json", kBox);
    write("there.csv", "old");
    fs::create_symlink("there.csv", folder_ / "to_there.csv");
    fs::create_symlink("new.csv", folder_ / "to_new.csv");
    for (const char* name : {"to_there.csv", "to_new.csv"}) {
        ASSERT_EQ(astasis(std::string("run s.json --csv ") + name).status, 0);
        EXPECT_TRUE(fs::is_symlink(folder_ / name));
    }
    EXPECT_EQ(read("there.csv").find("tick,time_s"), 0u);
    EXPECT_EQ(read("new.csv"), read("there.csv"));
    ASSERT_EQ(mkfifo((folder_ / "pipe").c_str(), 0600), 0);
    const Outcome piped = astasis("run s.json --csv pipe > /dev/null & cat pipe");
    EXPECT_EQ(piped.out, read("there.csv"));
    EXPECT_TRUE(fs::is_fifo(folder_ / "pipe"));
    EXPECT_EQ(astasis("run s.json --csv /dev/stdout").out.find("tick,time_s"), 0u);
    // What is written anew keeps the rights of what was there.
    fs::permissions(folder_ / "there.csv", fs::perms::owner_read | fs::perms::owner_write);
    ASSERT_EQ(astasis("run s.json --csv there.csv").status, 0);
    EXPECT_EQ(fs::status(folder_ / "there.csv").permissions(),
              fs::perms::owner_read | fs::perms::owner_write);
}

TEST_F(Manners, WhatLiesBesideAnOutputStays) {
    write("s.json", kBox);
    write("x.csv.part", "someone's");
    ASSERT_EQ(astasis("run s.json --csv x.csv").status, 0);
    EXPECT_EQ(read("x.csv.part"), "someone's");
    EXPECT_EQ(read("x.csv").find("tick,time_s"), 0u);
}

TEST_F(Manners, FullDisksAreFaults) {
    write("s.json", kBox);
    for (const char* call : {"run s.json 2>&1 > /dev/full", "draw s.json --picture p.png 2>&1 > /dev/full",
                             "run s.json --watch box 2>&1 > /dev/full", "run s.json --csv /dev/full 2>&1",
                             "run s.json --events-csv /dev/full 2>&1"}) {
        const Outcome o = shell(std::string(ASTASIS_COMMAND " ") + call);
        EXPECT_EQ(o.status, 2) << call;
        EXPECT_TRUE(has(o, "is the disk full?")) << call << o.out;
    }
    EXPECT_EQ(shell(ASTASIS_COMMAND " run s.json > /dev/full 2>&1").status, 2);
    EXPECT_EQ(shell(ASTASIS_COMMAND " run none.json > /dev/full 2>&1").status, 2);
}

TEST_F(Manners, TheDemoLeavesEditedScenesAlone) {
    fs::create_directory(folder_ / "d");
    write("d/tile_floor.json", "mine");
    const Outcome o = astasis("demo --out d");
    EXPECT_EQ(o.status, 2);
    EXPECT_TRUE(has(o, "tile_floor.json is no longer as the demo wrote it")) << o.out;
    EXPECT_EQ(read("d/tile_floor.json"), "mine");
    EXPECT_EQ(std::distance(fs::directory_iterator(folder_ / "d"), {}), 1);
}

TEST_F(Manners, SignalsEndARunInOrder) {
    write("s.json", kBox);
    // Not from a shell, whose background commands do not feel SIGINT.
    for (const int number : {SIGINT, SIGTERM}) {
        const pid_t child = fork();
        if (child == 0) {
            const int out = open((folder_ / "out").c_str(), O_CREAT | O_TRUNC | O_WRONLY, 0600);
            if (chdir(folder_.c_str()) != 0 || dup2(out, 1) < 0 || dup2(out, 2) < 0) _exit(99);
            std::signal(SIGINT, SIG_DFL);
            execl(ASTASIS_COMMAND, "astasis", "run", "s.json", "--duration", "100000", "--csv", "all.csv",
                  "--every", "1", "--picture", "end.png", nullptr);
            _exit(98);
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(500));
        kill(child, number);
        int status = 0;
        waitpid(child, &status, 0);
        ASSERT_TRUE(WIFEXITED(status));
        EXPECT_EQ(WEXITSTATUS(status), 128 + number);
        const std::string out = read("out");
        std::smatch ticks;
        ASSERT_TRUE(
            std::regex_search(out, ticks, std::regex("ticks +([0-9]+) of 6000000 .*stopped by a signal")))
            << out;
        EXPECT_GT(std::stoi(ticks[1]), 0);
        EXPECT_NE(out.find("wrote            end.png"), std::string::npos);
        EXPECT_EQ(files(), (std::vector<std::string>{"all.csv", "end.png", "out", "s.json"}));
        EXPECT_EQ(read("all.csv").back(), '\n');
        EXPECT_EQ(read("end.png").substr(1, 3), "PNG");
    }
}

TEST_F(Manners, RowsOfAWatchedBodyComeAsTheyAreMade) {
    write("s.json", kBox);
    const Outcome o =
        shell(ASTASIS_COMMAND " run s.json --duration 100000 --watch box --every 0.5 > rows & p=$!; "
                              "sleep 0.5; wc -l < rows; kill -KILL $p");
    EXPECT_GT(std::stoi(o.out), 3);
}

TEST_F(Manners, ALargeFileIsAnnounced) {
    write("s.json", kBox);
    const Outcome o =
        shell(ASTASIS_COMMAND " run s.json --duration 1000000 --csv all.csv 2>&1 & p=$!; sleep 0.3; "
                              "kill -TERM $p; wait $p");
    EXPECT_TRUE(std::regex_search(o.out, std::regex("--csv all.csv will take about [0-9.]+ GB"))) << o.out;
    EXPECT_FALSE(has(astasis("run s.json --csv all.csv"), "GB"));
}

TEST_F(Manners, BrokenCallsAreToldInASentence) {
    write("s.json", kBox);
    const std::vector<std::pair<std::string, std::string>> calls{
        {"", "a command is missing; there are run, draw, check, time, chart, demo"},
        {"drwa s.json", "there is no command \"drwa\"; did you mean draw?"},
        {"fly", "there is no command \"fly\"; there are run, draw, check, time, chart, demo"},
        {"run", "run wants the name of a scene file"},
        {"run s.json --cvs x.csv", "there is no option --cvs; did you mean --csv?"},
        {"run --cvs x.csv", "there is no option --cvs; did you mean --csv?"},
        {"run s.json --substep 4", "did you mean --substeps?"},
        {"run s.json --zebra", "there is no option --zebra\n"},
        {"run s.json --csv", "--csv wants a value behind it"},
        {"run s.json --csv a.csv --csv b.csv", "--csv is given twice"},
        {"run s.json t.json", "t.json: run already has its file"},
        {"run s.json --substeps 3.5", "given 3.5, accepted: a whole number from 1 to 64"},
        {"run s.json --substeps 0", "given 0, accepted: a whole number from 1 to 64"},
        {"run s.json --seed -1", "given -1, accepted: a whole number"},
        {"run s.json --seed 99999999999999999999", "given 99999999999999999999, accepted: a whole number"},
        {"run s.json --duration long", "given long, accepted: seconds"},
        {"run s.json --watch bok", "has no body of that name; it has box"},
        {"run s.json --csv none/x.csv", "there is no folder none"},
        {"run s.json --csv .", "is a folder"},
        {"run none.json", "there is no such file"},
        {"demo s.json", "demo takes options only, given s.json"},
        {"demo --out s.json", "is a file; give a folder"},
        {"draw s.json --picture s.gif", "ends in .png or .svg"}};
    for (const auto& [call, sentence] : calls) {
        const Outcome o = astasis(call);
        EXPECT_EQ(o.status, 2) << call;
        EXPECT_TRUE(has(o, sentence)) << call << "\n" << o.out;
        EXPECT_EQ(files(), std::vector<std::string>{"s.json"}) << call;
    }
}

TEST_F(Manners, BrokenFilesAreToldInASentence) {
    const std::string head = R"({"astasis_scene": 1, "dimension": 2, )";
    const std::vector<std::pair<std::string, std::string>> texts{
        {"{", "1:1: not JSON: the text ends here"},
        {"[1, 2", "the text ends here"},
        {R"({"a": nope})", "strings stand in double quotes, and there are no comments"},
        {"// a scene\n{}", "1:1: not JSON: no value begins like this"},
        {R"({"a": 1e999})", "this number is too large"},
        {R"({"a": 1.})", "this is no number of JSON"},
        {R"({"a" 1})", "a colon is missing behind a key"},
        {R"({"a": 1,})", "behind the last entry stands no comma"},
        {R"({"a": [1,]})", "behind the last entry stands no comma"},
        {R"({"a": 1 "b": 2})", "a comma or } is wanted here"},
        {R"({"a": [1 2]})", "a comma or ] is wanted here"},
        {"{\"a\": \"x\ny\"}", "a line break or another control character"},
        {R"({"a": "\x"})", "a backslash in a string"},
        {R"({"a": "x)", "a string begins that no double quote ends"},
        {"{\"a\": \"\xff\"}", "this is not UTF-8"},
        {head + R"("bodies": []} x)", "the scene has ended before this"},
        {head + R"("bodys": []})", "unknown key; did you mean \"bodies\"?"},
        {head + R"("bodies": [{"name": "b", "shapes": [{"shape": "bxo"}]}]})", "did you mean \"box\"?"},
        {head + R"("gravity": [0, 1e300], "bodies": []})",
         "given 1e300, accepted: a number, and none beyond 3e38"}};
    for (const auto& [text, sentence] : texts) {
        write("t.json", text);
        const Outcome o = astasis("run t.json");
        EXPECT_EQ(o.status, 2) << text;
        EXPECT_TRUE(has(o, sentence)) << text << "\n" << o.out;
        EXPECT_FALSE(has(o, "exception") || has(o, "syntax error") || has(o, "literal")) << o.out;
    }
    write("t.json", head + "\"bodies\": []}");
    const Outcome o = astasis("run t.json");
    EXPECT_EQ(o.status, 0);
    EXPECT_TRUE(has(o, "the scene has no bodies"));
    EXPECT_EQ(o.out.find("t.json\n  world"), 0u) << o.out; // without a title it is the file's name
}

// A floor far below is not out of the scene, and the same run has the same fingerprint.
TEST_F(Manners, GroundsAreWithinTheBounds) {
    write("s.json", R"({"astasis_scene": 1, "dimension": 2, "duration": 6, "bodies": [
        {"name": "floor", "motion": "static", "turn": "10 deg", "shapes": [{"shape": "half-plane"}]},
        {"name": "box", "at": [0, 100], "shapes": [{"shape": "box", "size": [1, 1]}]}]})");
    const Outcome o = astasis("run s.json"), again = astasis("run s.json"),
                  other = astasis("run s.json --substeps 4");
    EXPECT_TRUE(has(o, "warnings         none")) << o.out;
    const std::regex line("fingerprint +([0-9a-f]{16})\n");
    std::smatch a, b, c;
    ASSERT_TRUE(std::regex_search(o.out, a, line) && std::regex_search(again.out, b, line) &&
                std::regex_search(other.out, c, line));
    EXPECT_EQ(a[1], b[1]);
    EXPECT_NE(a[1], c[1]);
}

}
}
