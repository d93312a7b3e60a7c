// Faust's versions of the loads.
#pragma once
#include "peers/faust_shell.h"
#include <memory>
std::unique_ptr<dsp> makeBells();
std::unique_ptr<dsp> makeRoomScalar();
std::unique_ptr<dsp> makeRoomVector32();
std::unique_ptr<dsp> makeRoomVector64();
