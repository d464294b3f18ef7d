// Something that can say a short sentence. The machine's own voice, or a stand-in for tests.
#pragma once

#include <QString>
#include <functional>
#include <memory>

namespace heron::app {

class Voice {
  public:
    virtual ~Voice() = default;
    virtual void say(const QString &words) = 0;
    virtual bool speaking() const = 0;
    /// Whether there is a voice at all.
    virtual bool available() const = 0;
};

/// The machine's voice through Qt TextToSpeech. `ended` is called when a sentence is over.
std::unique_ptr<Voice> machineVoice(std::function<void()> ended);

} // namespace heron::app
