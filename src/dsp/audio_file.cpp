#include "dsp/audio_file.h"
#include <algorithm>
#include <cmath>
#include <cstring>
#include <samplerate.h>
#include <sndfile.h>

namespace loom::dsp {
namespace {

struct Memory {
    const std::vector<char>* bytes;
    sf_count_t at;
};

SF_VIRTUAL_IO memoryIo() {
    SF_VIRTUAL_IO io{};
    io.get_filelen = [](void* u) { return static_cast<sf_count_t>(static_cast<Memory*>(u)->bytes->size()); };
    io.seek = [](sf_count_t offset, int whence, void* u) {
        auto* m = static_cast<Memory*>(u);
        const auto size = static_cast<sf_count_t>(m->bytes->size());
        const sf_count_t base = whence == SEEK_SET ? 0 : whence == SEEK_CUR ? m->at : size;
        m->at = std::clamp<sf_count_t>(base + offset, 0, size);
        return m->at;
    };
    io.read = [](void* to, sf_count_t count, void* u) {
        auto* m = static_cast<Memory*>(u);
        const auto left = static_cast<sf_count_t>(m->bytes->size()) - m->at;
        count = std::clamp<sf_count_t>(count, 0, left);
        std::memcpy(to, m->bytes->data() + m->at, static_cast<std::size_t>(count));
        m->at += count;
        return count;
    };
    io.tell = [](void* u) { return static_cast<Memory*>(u)->at; };
    return io;
}

// What is wrong with a file by its head; empty: nothing. Nothing is taken before this was asked.
std::string errorIn(const SF_INFO& info, const std::string& name, double rate) {
    if (info.channels < 1 || info.channels > maxClipChannels || info.samplerate < 4000 || info.samplerate > 768000 ||
        info.frames < 0 || info.frames > maxClipFrames)
        return name + ": has " + std::to_string(info.channels) + " channels, " + std::to_string(info.samplerate) +
               " Hz and " + std::to_string(info.frames) + " samples; up to 64 channels, 4 to 768 kHz and 30 minutes" +
               " are read. Cut or convert it.";
    const double stretched = rate > info.samplerate ? rate / info.samplerate : 1;
    if (static_cast<double>(info.frames) * info.channels * stretched > static_cast<double>(maxClipSamples))
        return name + ": is too long for its " + std::to_string(info.channels) +
               " channels; an hour of one channel, half an hour of two and so on are read. Cut it.";
    return {};
}

bool readAll(SNDFILE* file, const SF_INFO& info, const std::string& name, double rate, AudioClip& clip,
             std::string& error) {
    if (!file) {
        error = name + ": not a sound file that can be read (" + sf_strerror(nullptr) + "). Use WAV or FLAC.";
        return false;
    }
    if (error = errorIn(info, name, rate); !error.empty()) {
        sf_close(file);
        return false;
    }
    clip.rate = info.samplerate;
    clip.channels.assign(info.channels, {});
    for (auto& c : clip.channels)
        c.reserve(static_cast<std::size_t>(info.frames));
    std::vector<float> part(static_cast<std::size_t>(info.channels) * 4096);
    for (sf_count_t got; (got = sf_readf_float(file, part.data(), 4096)) > 0;) {
        if (static_cast<sf_count_t>(clip.frames()) + got > info.frames)
            break; // more than its head says
        for (int c = 0; c < info.channels; ++c)
            for (sf_count_t i = 0; i < got; ++i) {
                const float x = part[i * info.channels + c];
                clip.channels[c].push_back(std::isfinite(x) ? x : 0.0f);
            }
    }
    sf_close(file);
    if (clip.frames() == 0) {
        error = name + ": holds no sound (truncated?). Export it again.";
        return false;
    }
    if (rate > 0 && rate != clip.rate)
        clip = resampled(std::move(clip), rate);
    return true;
}

} // namespace

bool readClip(const std::string& path, double rate, AudioClip& clip, std::string& error) {
    SF_INFO info{};
    return readAll(sf_open(path.c_str(), SFM_READ, &info), info, path, rate, clip, error);
}

bool readClip(const std::vector<char>& bytes, const std::string& name, double rate, AudioClip& clip,
              std::string& error) {
    SF_INFO info{};
    Memory memory{&bytes, 0};
    SF_VIRTUAL_IO io = memoryIo();
    return readAll(sf_open_virtual(&io, SFM_READ, &info, &memory), info, name, rate, clip, error);
}

std::int64_t clipFrames(const std::vector<char>& bytes, const std::string& name, std::string& error) {
    SF_INFO info{};
    Memory memory{&bytes, 0};
    SF_VIRTUAL_IO io = memoryIo();
    SNDFILE* file = sf_open_virtual(&io, SFM_READ, &info, &memory);
    if (!file) {
        error = name + ": not a sound file that can be read (" + sf_strerror(nullptr) + "). Use WAV or FLAC.";
        return 0;
    }
    sf_close(file);
    error = errorIn(info, name, 48000);
    return error.empty() ? info.frames : 0;
}

bool writeWav(const std::string& path, const AudioClip& clip, std::string& error) {
    SF_INFO info{};
    info.channels = static_cast<int>(clip.channels.size());
    info.samplerate = static_cast<int>(clip.rate);
    info.format = SF_FORMAT_WAV | SF_FORMAT_FLOAT;
    SNDFILE* file = sf_open(path.c_str(), SFM_WRITE, &info);
    if (!file) {
        error = path + ": cannot be written (" + sf_strerror(nullptr) + "). Choose another folder.";
        return false;
    }
    std::vector<float> frames(clip.frames() * clip.channels.size());
    for (std::size_t c = 0; c < clip.channels.size(); ++c)
        for (std::size_t i = 0; i < clip.frames(); ++i)
            frames[i * clip.channels.size() + c] = clip.channels[c][i];
    const auto wrote = sf_writef_float(file, frames.data(), static_cast<sf_count_t>(clip.frames()));
    const bool closed = sf_close(file) == 0;
    if (wrote != static_cast<sf_count_t>(clip.frames()) || !closed) {
        error = path + ": could not be written whole; is the disk full?";
        return false;
    }
    return true;
}

AudioClip resampled(AudioClip clip, double rate) {
    AudioClip out;
    out.rate = rate;
    const double ratio = rate / clip.rate;
    for (auto& in : clip.channels) {
        std::vector<float> to(static_cast<std::size_t>(std::ceil(static_cast<double>(in.size()) * ratio)) + 8);
        SRC_DATA data{};
        data.data_in = in.data();
        data.data_out = to.data();
        data.input_frames = static_cast<long>(in.size());
        data.output_frames = static_cast<long>(to.size());
        data.src_ratio = ratio;
        if (src_simple(&data, SRC_SINC_MEDIUM_QUALITY, 1) != 0)
            data.output_frames_gen = 0;
        to.resize(data.output_frames_gen);
        to.shrink_to_fit();
        out.channels.push_back(std::move(to));
        in = {}; // a channel at a time is there twice
    }
    return out;
}

} // namespace loom::dsp
