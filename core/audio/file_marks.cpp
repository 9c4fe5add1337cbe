#include "audio/file_marks.h"

#include <FLAC/metadata.h>

#include <algorithm>
#include <cstdio>
#include <cstring>
#include <memory>

namespace tuvvo {

namespace {

constexpr std::size_t kMostFlacCues = 254;

bool addComment(FLAC__StreamMetadata* block, const std::string& name, const std::string& value) {
  FLAC__StreamMetadata_VorbisComment_Entry entry;
  return FLAC__metadata_object_vorbiscomment_entry_from_name_value_pair(&entry, name.c_str(),
                                                                        value.c_str()) &&
         FLAC__metadata_object_vorbiscomment_append_comment(block, entry, /*copy=*/false);
}

/// A track for every cue and the lead-out that ends every sheet.
bool fillSheet(FLAC__StreamMetadata* sheet, const FileMarks& marks, Frames frames) {
  const std::size_t count = std::min(marks.cues.size(), kMostFlacCues);
  sheet->data.cue_sheet.is_cd = false;
  for (std::size_t i = 0; i <= count; ++i) {
    if (!FLAC__metadata_object_cuesheet_insert_blank_track(sheet, unsigned(i))) return false;
    auto& track = sheet->data.cue_sheet.tracks[i];
    const bool leadOut = i == count;
    track.number = leadOut ? 255 : FLAC__byte(i + 1);
    track.offset = FLAC__uint64(leadOut ? frames.value : marks.cues[i].at.value);
    if (leadOut) continue;
    if (!FLAC__metadata_object_cuesheet_track_insert_blank_index(sheet, unsigned(i), 0))
      return false;
    track.indices[0].number = 1;
  }
  return true;
}

// A new file as libFLAC's callbacks see it (FLAC/callback.h: as fread, fwrite, fseek and ftell).

NewFile& fileIn(FLAC__IOHandle handle) { return *static_cast<NewFile*>(handle); }

FLAC__IOCallbacks flacCallbacks() {
  FLAC__IOCallbacks calls{};
  calls.read = [](void* to, std::size_t size, std::size_t count, FLAC__IOHandle handle) {
    std::size_t done = 0;
    while (done < size * count) {
      const long n = fileIn(handle).readSome(static_cast<char*>(to) + done, size * count - done);
      if (n <= 0) break;
      done += std::size_t(n);
    }
    return done / size;
  };
  calls.write = [](const void* from, std::size_t size, std::size_t count, FLAC__IOHandle handle) {
    return fileIn(handle).writeSome(from, size * count) < 0 ? std::size_t(0) : count;
  };
  calls.seek = [](FLAC__IOHandle handle, FLAC__int64 offset, int whence) {
    return fileIn(handle).seek(offset, whence) < 0 ? -1 : 0;
  };
  calls.tell = [](FLAC__IOHandle handle) { return FLAC__int64(fileIn(handle).seek(0, SEEK_CUR)); };
  calls.eof = [](FLAC__IOHandle handle) {
    return int(fileIn(handle).seek(0, SEEK_CUR) >= fileIn(handle).size());
  };
  return calls;
}

} // namespace

void markWav(SNDFILE* file, const FileMarks& marks) {
  if (!marks.cues.empty()) {
    SF_CUES cues{};
    cues.cue_count = std::uint32_t(std::min<std::size_t>(marks.cues.size(), 100));
    for (std::uint32_t i = 0; i < cues.cue_count; ++i) {
      auto& point = cues.cue_points[i];
      point.indx = int(i + 1);
      std::memcpy(&point.fcc_chunk, "data", 4);
      point.position = point.sample_offset = std::uint32_t(marks.cues[i].at.value);
      std::strncpy(point.name, marks.cues[i].name.c_str(), sizeof point.name - 1);
    }
    sf_command(file, SFC_SET_CUE, &cues, sizeof cues);
  }
  if (!marks.loop) return;
  SF_INSTRUMENT instrument{};
  instrument.gain = 1;
  instrument.basenote = char(std::clamp(marks.rootNote, 0, 127));
  instrument.velocity_hi = instrument.key_hi = 127;
  instrument.loop_count = 1;
  instrument.loops[0].mode = SF_LOOP_FORWARD;
  instrument.loops[0].start = std::uint32_t(marks.loop->first.value);
  instrument.loops[0].end = std::uint32_t(marks.loop->second.value);
  sf_command(file, SFC_SET_INSTRUMENT, &instrument, sizeof instrument);
}

bool markFlac(NewFile& from, NewFile& to, const FileMarks& marks, Frames frames) {
  const FLAC__IOCallbacks calls = flacCallbacks();
  if (from.seek(0, SEEK_SET) < 0) return false;
  const std::unique_ptr<FLAC__Metadata_Chain, decltype(&FLAC__metadata_chain_delete)> chain(
      FLAC__metadata_chain_new(), FLAC__metadata_chain_delete);
  const std::unique_ptr<FLAC__Metadata_Iterator, decltype(&FLAC__metadata_iterator_delete)> place(
      FLAC__metadata_iterator_new(), FLAC__metadata_iterator_delete);
  if (!chain || !place || !FLAC__metadata_chain_read_with_callbacks(chain.get(), &from, calls))
    return false;
  FLAC__metadata_iterator_init(place.get(), chain.get());
  const auto insert = [&](FLAC__StreamMetadata* block) {
    if (FLAC__metadata_iterator_insert_block_after(place.get(), block)) return true;
    FLAC__metadata_object_delete(block);
    return false;
  };
  if (!marks.cues.empty()) {
    FLAC__StreamMetadata* sheet = FLAC__metadata_object_new(FLAC__METADATA_TYPE_CUESHEET);
    if (!sheet) return false;
    if (!fillSheet(sheet, marks, frames)) {
      FLAC__metadata_object_delete(sheet);
      return false;
    }
    if (!insert(sheet)) return false;
  }
  if (marks.loop) {
    while (FLAC__metadata_iterator_get_block_type(place.get()) !=
           FLAC__METADATA_TYPE_VORBIS_COMMENT)
      if (!FLAC__metadata_iterator_next(place.get())) {
        FLAC__StreamMetadata* fresh = FLAC__metadata_object_new(FLAC__METADATA_TYPE_VORBIS_COMMENT);
        if (!fresh || !insert(fresh)) return false;
        break;
      }
    FLAC__StreamMetadata* comments = FLAC__metadata_iterator_get_block(place.get());
    const auto length = marks.loop->second - marks.loop->first;
    if (!addComment(comments, "LOOPSTART", std::to_string(marks.loop->first.value)) ||
        !addComment(comments, "LOOPLENGTH", std::to_string(length.value)))
      return false;
  }
  // Without padding to use up, so that it is always written anew and never patched in place.
  if (from.seek(0, SEEK_SET) < 0) return false;
  if (FLAC__metadata_chain_check_if_tempfile_needed(chain.get(), /*use_padding=*/false))
    return FLAC__metadata_chain_write_with_callbacks_and_tempfile(chain.get(), false, &from, calls,
                                                                  &to, calls);
  return false;
}

} // namespace tuvvo
