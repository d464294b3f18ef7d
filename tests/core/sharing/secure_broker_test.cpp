// Marks over an encrypted line, with names, passwords and the access list that ships: the broker's own
// programs make and check what is needed.
#include "brokers.hpp"

#include <gmock/gmock.h>

using namespace heron;
using namespace std::chrono_literals;
using test::Broker, test::mark;
using testing::HasSubstr;

namespace {

// An authority, a broker that it vouches for, another that it does not, and three who are known to it.
class SecureBroker : public testing::Test {
  protected:
    std::unique_ptr<Broker> broker;

    void SetUp() override {
        broker = std::make_unique<Broker>(
            "per_listener_settings false\nlistener {PORT} 127.0.0.1\ncafile {FOLDER}/ca.pem\n"
            "certfile {FOLDER}/boat.pem\nkeyfile {FOLDER}/boat.key\nallow_anonymous false\n"
            "password_file {FOLDER}/passwords\nacl_file {FOLDER}/marks.acl\nlog_dest none\n"
            "persistence false\n");
        authority("ca");
        authority("other");
        certificate("boat", "127.0.0.1", "ca");
        for (const char *who : {"console", "client"})
            ASSERT_EQ(test::run(std::string("mosquitto_passwd -b ") +
                                (std::string(who) == "console" ? "-c " : "") + path("passwords") + " " + who +
                                " secret-" + who)
                          .code,
                      0);
        // The list that ships, for this service.
        auto list = test::contents(std::string(HERON_LAKES) + "/../broker/marks.acl");
        for (auto at = list.find("SERVICE"); at != std::string::npos; at = list.find("SERVICE", at))
            list.replace(at, 7, "ellemoor");
        std::ofstream(path("marks.acl")) << list;
        test::run("chmod 0700 " + path("passwords") + " " + path("marks.acl"));
        broker->start();
        ASSERT_TRUE(broker->listens());
    }
    std::string path(const std::string &name) const { return broker->folder.file(name); }
    void authority(const std::string &name) {
        const auto made =
            test::run("openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN=" + name + " -keyout " +
                      path(name + ".key") + " -out " + path(name + ".pem") + " 2>&1");
        ASSERT_EQ(made.code, 0) << made.out;
    }
    void certificate(const std::string &name, const std::string &address, const std::string &by) {
        std::ofstream(path("names")) << "subjectAltName=IP:" << address << "\n";
        const auto made = test::run(
            "openssl req -newkey rsa:2048 -nodes -subj /CN=" + name + " -keyout " + path(name + ".key") +
            " -out " + path(name + ".req") + " 2>&1 && openssl x509 -req -days 2 -in " + path(name + ".req") +
            " -CA " + path(by + ".pem") + " -CAkey " + path(by + ".key") + " -CAcreateserial -extfile " +
            path("names") + " -out " + path(name + ".pem") + " 2>&1");
        ASSERT_EQ(made.code, 0) << made.out;
    }
    std::unique_ptr<BrokerLink> link(const std::string &who, const std::string &password,
                                     const std::string &ca, const std::vector<std::string> &topics) {
        auto made = BrokerLink::connect({"127.0.0.1", broker->port, who, password, path(ca + ".pem"), {}, {}},
                                        who + "-screen", topics, [] {});
        EXPECT_TRUE(made) << (made ? "" : made.error().line());
        return made ? std::move(*made) : nullptr;
    }
    static bool settles(const std::function<bool()> &until) {
        for (int i = 0; i < 500; ++i) {
            if (until())
                return true;
            std::this_thread::sleep_for(10ms);
        }
        return false;
    }
};

} // namespace

TEST_F(SecureBroker, TheCrewSharesAndAClientHearsNoMoreThanIsHis) {
    SharedMarks console("ellemoor", "console", SharedMarks::Role::crew),
        guest("ellemoor", "guest", SharedMarks::Role::client);
    auto crew = link("console", "secret-console", "ca", console.topics());
    // He asks for more than he may have.
    auto topics = guest.topics();
    topics.push_back("young-heron/ellemoor/crew/+");
    auto client = link("client", "secret-client", "ca", topics);
    ASSERT_TRUE(crew && client);
    ASSERT_TRUE(settles([&] { return crew->state().connected && client->state().connected; }))
        << crew->state().why;
    auto open_mark = mark("For guests", Level::client), close_mark = mark("For the crew", Level::crew);
    open_mark.note = "the crew's own word";
    for (const auto &m : {open_mark, close_mark})
        for (const auto &w : console.edited(m, 1'800'000'000LL * ns_per_s))
            crew->publish(w.topic, w.payload);
    std::string heard;
    EXPECT_TRUE(settles([&] {
        for (const auto &w : client->taken())
            heard += w.topic + " " + w.payload + "\n";
        return heard.find("For guests") != std::string::npos;
    }));
    std::this_thread::sleep_for(300ms);
    for (const auto &w : client->taken())
        heard += w.topic + " " + w.payload + "\n";
    EXPECT_THAT(heard, HasSubstr("young-heron/ellemoor/client/"));
    EXPECT_THAT(heard, testing::Not(HasSubstr("For the crew")));
    EXPECT_THAT(heard, testing::Not(HasSubstr("the crew's own word")));
    EXPECT_THAT(heard, testing::Not(HasSubstr("/crew/")));
    // Nor may he write where the crew reads.
    client->publish("young-heron/ellemoor/crew/forged", "{}");
    std::this_thread::sleep_for(300ms);
    for (const auto &w : crew->taken())
        EXPECT_THAT(w.topic, testing::Not(HasSubstr("forged")));
}

TEST_F(SecureBroker, AWrongPasswordAndAStrangersCertificateAreRefusedWithTheirReason) {
    auto wrong = link("console", "guessed", "ca", {"young-heron/ellemoor/crew/+"});
    ASSERT_TRUE(wrong);
    EXPECT_TRUE(settles([&] { return !wrong->state().why.empty(); }));
    EXPECT_FALSE(wrong->state().connected);
    EXPECT_THAT(wrong->state().why, HasSubstr("uthori")) << "not authorised";
    // Another authority than the one that vouched for the broker.
    auto stranger = link("console", "secret-console", "other", {"young-heron/ellemoor/crew/+"});
    ASSERT_TRUE(stranger);
    EXPECT_TRUE(settles([&] { return !stranger->state().why.empty(); }));
    EXPECT_THAT(stranger->state().why, HasSubstr("certificate"));
    EXPECT_FALSE(stranger->state().connected);
    // Nothing goes over the wire in plain.
    const auto plain = BrokerLink::connect(
        {"127.0.0.1", broker->port, "console", "secret-console", {}, {}, {}}, "plain", {}, [] {});
    ASSERT_TRUE(plain) << "within this machine a plain line may be tried";
    std::this_thread::sleep_for(800ms);
    EXPECT_FALSE((*plain)->state().connected);
}

// Its certificate is of another address than the one that is called.
TEST_F(SecureBroker, ABrokerOfAnotherNameIsNotTrusted) {
    broker->stop();
    certificate("boat", "127.0.0.9", "ca");
    broker->start();
    auto crew = link("console", "secret-console", "ca", {"young-heron/ellemoor/crew/+"});
    ASSERT_TRUE(crew);
    EXPECT_TRUE(settles([&] { return !crew->state().why.empty(); }));
    EXPECT_THAT(crew->state().why, HasSubstr("certificate"));
    EXPECT_FALSE(crew->state().connected);
}

// A file that is there and holds no certificate is told at once: no waiting mends it.
TEST_F(SecureBroker, AFileThatIsNoCertificateIsRefusedAtOnce) {
    std::ofstream(path("words.pem")) << "no certificate at all\n";
    const auto made = BrokerLink::connect(
        {"127.0.0.1", broker->port, "console", "secret-console", path("words.pem"), {}, {}}, "console-screen",
        {}, [] {});
    ASSERT_FALSE(made);
    EXPECT_THAT(made.error().line(), HasSubstr("certificates cannot be used"));
    EXPECT_THAT(made.error().line(), HasSubstr("check the files"));
}

// A broker that was put right while the screen ran: the line comes about by itself, whatever was wrong
// before.
TEST_F(SecureBroker, AnUntrustedBrokerThatIsPutRightIsFoundAgain) {
    broker->stop();
    certificate("boat", "127.0.0.1", "other");
    broker->start();
    ASSERT_TRUE(broker->listens());
    auto crew = link("console", "secret-console", "ca", {"young-heron/ellemoor/crew/+"});
    ASSERT_TRUE(crew);
    ASSERT_TRUE(settles([&] { return !crew->state().why.empty(); }));
    broker->stop();
    certificate("boat", "127.0.0.1", "ca");
    broker->start();
    ASSERT_TRUE(broker->listens());
    EXPECT_TRUE(settles([&] {
        crew->taken();
        return crew->state().connected;
    })) << crew->state().why;
}
