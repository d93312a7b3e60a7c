// Sound files: what would take too much memory is refused by its head.
#include "dsp/audio_file.h"
#include "test.h"
#include <QTemporaryDir>
#include <QtTest>
#include <fstream>
#include <sndfile.h>

using namespace loom::dsp;

class AudioFileTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::string silence(const char* name, int channels, int rate, sf_count_t frames) {
        const std::string path = folder_.filePath(name).toStdString();
        SF_INFO info{};
        info.channels = channels, info.samplerate = rate, info.format = SF_FORMAT_FLAC | SF_FORMAT_PCM_16;
        SNDFILE* file = sf_open(path.c_str(), SFM_WRITE, &info);
        const std::vector<short> none(static_cast<std::size_t>(channels) * 65536, 0);
        for (sf_count_t left = frames; left > 0; left -= 65536)
            sf_writef_short(file, none.data(), std::min<sf_count_t>(left, 65536));
        sf_close(file);
        return path;
    }
  private slots:
    void longSilenceOfManyChannels() {
        const std::string path = silence("long.flac", 8, 8000, 8000 * 60 * 29);
        QVERIFY(QFileInfo(QString::fromStdString(path)).size() < 2 << 20);
        AudioClip clip;
        std::string error;
        QVERIFY(!readClip(path, 48000, clip, error)); // 2.7 GB at 48 kHz
        QVERIFY2(error.find("too long for its 8 channels") != std::string::npos, error.c_str());
        QVERIFY(clip.channels.empty());
        std::ifstream in(path, std::ios::binary);
        const std::vector<char> bytes((std::istreambuf_iterator<char>(in)), std::istreambuf_iterator<char>());
        QCOMPARE(clipFrames(bytes, "long.flac", error), std::int64_t(0)); // nor is it taken into a project
        QVERIFY(!error.empty());
    }
    void shortOnesAreRead() {
        const std::string path = silence("short.flac", 8, 8000, 8000);
        AudioClip clip;
        std::string error;
        QVERIFY2(readClip(path, 48000, clip, error), error.c_str());
        QCOMPARE(clip.channels.size(), std::size_t(8));
        QVERIFY(std::abs(static_cast<double>(clip.frames()) - 48000) < 20);
        QVERIFY(readClip(path, 0, clip, error) && clip.rate == 8000 && clip.frames() == 8000);
    }
};

LOOM_TEST(tst_audio_file, AudioFileTest)
#include "tst_audio_file.moc"
