// Which types of a device model are declared (schema/schema.h); device_model_types.cpp declares them.
#pragma once
#include "catalogue/device_model.h"
#include "schema/schema.h"

namespace loom::schema {

// One line a type; nothing else says that there is one.
#define LOOM_DEVICE_MODEL_TYPES(X)                                                                                     \
    X(project::DeviceModel)                                                                                            \
    X(project::PortGroup)                                                                                              \
    X(project::SocketGroup)                                                                                            \
    X(project::PeerLimit)                                                                                              \
    X(project::SoundNetworkData)                                                                                       \
    X(project::RingData)                                                                                               \
    X(project::LoudspeakerData)                                                                                        \
    X(project::MicrophoneData)                                                                                         \
    X(project::AmplifierData)                                                                                          \
    X(project::PowerRating)

LOOM_DEVICE_MODEL_TYPES(LOOM_DESCRIBE)

} // namespace loom::schema
