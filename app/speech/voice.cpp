#include "speech/voice.hpp"

#include <QTextToSpeech>

namespace heron::app {
namespace {

class MachineVoice : public Voice {
  public:
    explicit MachineVoice(std::function<void()> ended) {
        QObject::connect(&speech_, &QTextToSpeech::stateChanged, &speech_,
                         [ended = std::move(ended)](QTextToSpeech::State state) {
                             if (state == QTextToSpeech::Ready)
                                 ended();
                         });
    }
    void say(const QString &words) override { speech_.say(words); }
    bool speaking() const override { return speech_.state() == QTextToSpeech::Speaking; }
    bool available() const override {
        return !QTextToSpeech::availableEngines().isEmpty() && speech_.state() != QTextToSpeech::Error;
    }

  private:
    QTextToSpeech speech_;
};

} // namespace

std::unique_ptr<Voice> machineVoice(std::function<void()> ended) {
    return std::make_unique<MachineVoice>(std::move(ended));
}

} // namespace heron::app
