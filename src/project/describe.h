// Which types of the project are declared (model/schema.h), and the few calls that need more than one of them.
// Declarations: survey_types.cpp, device_types.cpp, program_types.cpp, voicing_types.cpp, model_types.cpp.
#pragma once
#include "model/schema.h"
#include "project/catalogue.h"
#include "project/model.h"
#include "project/tools.h"

namespace loom::schema {

#define LOOM_DESCRIBE(T)                                                                                               \
    template <> struct Describe<T> { static const Type<T>& type(); };

// One line a type; nothing else says that there is one.
#define LOOM_DESCRIBED_TYPES(X)                                                                                        \
    X(project::Project)                                                                                                \
    X(project::Building)                                                                                               \
    X(project::Room)                                                                                                   \
    X(project::Seats)                                                                                                  \
    X(project::Talker)                                                                                                 \
    X(project::Piece)                                                                                                  \
    X(project::Noise)                                                                                                  \
    X(project::Targets)                                                                                                \
    X(project::MovableWall)                                                                                            \
    X(project::WallState)                                                                                              \
    X(project::Rack)                                                                                                   \
    X(project::Backdrop)                                                                                               \
    X(project::Place)                                                                                                  \
    X(project::Device)                                                                                                 \
    X(project::Stand)                                                                                                  \
    X(project::AmplifierOutput)                                                                                        \
    X(project::HangsOn)                                                                                                \
    X(project::Left)                                                                                                   \
    X(project::Voicing)                                                                                                \
    X(project::Way)                                                                                                    \
    X(engine::Program)                                                                                                 \
    X(engine::Block)                                                                                                   \
    X(project::Tool)                                                                                                   \
    X(project::DeviceModel)                                                                                            \
    X(project::PortGroup)                                                                                              \
    X(project::LoudspeakerData)                                                                                        \
    X(project::MicrophoneData)                                                                                         \
    X(project::AmplifierData)                                                                                          \
    X(project::PowerRating)

LOOM_DESCRIBED_TYPES(LOOM_DESCRIBE)

// The body of a Describe<T>::type() from the function that makes it.
#define LOOM_TYPE(T, make)                                                                                             \
    const Type<T>& Describe<T>::type() {                                                                               \
        static const Type<T> t = make();                                                                               \
        return t;                                                                                                      \
    }

// A port and a thread are short lists: ["chair", 0] and [["chair", 0], ["eq", 0]].
template <> struct Codec<engine::PortRef> {
    static void read(engine::PortRef& v, const Json& j, const Limits& l, const At& at, Reading& r);
    static Json write(const engine::PortRef& v, const Limits& l);
    static void check(const engine::PortRef& v, const Limits& l, const At& at, Reading& r);
    static Json schema(const Limits& l, Definitions& d);
};
template <> struct Codec<engine::Thread> {
    static void read(engine::Thread& v, const Json& j, const Limits& l, const At& at, Reading& r);
    static Json write(const engine::Thread& v, const Limits& l);
    static void check(const engine::Thread& v, const Limits& l, const At& at, Reading& r);
    static Json schema(const Limits& l, Definitions& d);
};

} // namespace loom::schema
