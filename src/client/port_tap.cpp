#include "client/port_tap.h"
#include "site/samples.h"
#include <QPointer>

namespace loom::client {

PortTap::PortTap(Network& network) : timer_(network.here(), Timer::Mode::again, [this] { ask(); }) {}

void PortTap::begin(DeviceSession& link, const Place& place) {
    if (place_ == place)
        return;
    ++turn_;
    link_ = link.watch();
    place_ = place;
    latest_.clear();
    after_ = 0;
    asking_ = false;
    timer_.start(askMs);
    emit changed();
    ask();
}

void PortTap::end() {
    if (!place_)
        return;
    ++turn_;
    timer_.stop(); // the device ends it itself, as nobody asks any more
    place_.reset();
    latest_.clear();
    emit changed();
}

void PortTap::ask() {
    auto* link = link_.get();
    if (!link || !link->up()) {
        end();
        return emit said("The device is not there any more.");
    }
    if (asking_ || !place_)
        return;
    asking_ = true;
    link->call(site::message::sound, {place_->port, place_->input, after_},
               [self = QPointer(this), turn = turn_](const Reply<site::PortSound>& sound) {
                   if (!self || self->turn_ != turn)
                       return;
                   self->asking_ = false;
                   const auto samples = sound ? site::readSamples(sound->samples)
                                              : Result<std::vector<float>>(Error{sound.error, "", ""});
                   if (!samples) {
                       self->end();
                       return emit self->said(QString::fromStdString(samples.error().text()));
                   }
                   self->rate_ = sound->rate;
                   self->after_ = sound->begins + static_cast<double>(samples->size());
                   self->latest_.insert(self->latest_.end(), samples->begin(), samples->end());
                   while (self->latest_.size() > kept)
                       self->latest_.pop_front();
                   emit self->came(*samples);
               });
}

} // namespace loom::client
