//! A chime with a sound of one's own: what was uploaded is read, checked, evened out and kept under the ceiling.
//!
//! WAV, FLAC and MP3 are read; what is kept is WAV of one channel and 16 bit at 22.05 kHz, which every speaker plays. Its
//! loudness is measured as EBU R 128 has it (ITU-R BS.1770) and brought to [`LOUDNESS`], unless its peak would rise above
//! [`PEAK`] then.

use ebur128::{EbuR128, Mode};
use kestrel_core::model::{Picture, SOUND_MAX};
use rubato::{FftFixedIn, Resampler};
use std::io::Cursor;
use symphonia::core::codecs::audio::AudioDecoderOptions;
use symphonia::core::errors::Error as Unreadable;
use symphonia::core::formats::probe::Hint;
use symphonia::core::formats::{FormatOptions, TrackType};
use symphonia::core::io::MediaSourceStream;
use symphonia::core::meta::MetadataOptions;

/// The largest file, in bytes.
pub const FILE_MAX: usize = 8_000_000;

/// A chime is no shorter than this, in s.
const SHORTEST_S: f64 = 0.1;

/// A chime is no longer than this, in s.
const LONGEST_S: f64 = 6.0;

/// What chimes are brought to, in LUFS (EBU R 128's target for programmes).
const LOUDNESS: f64 = -23.0;

/// No sample rises above this, in dB of full scale (*common practice*: room for what a speaker adds).
const PEAK: f64 = -3.0;

/// Quieter than this all the way, in dB of full scale, is no sound.
const SILENCE: f64 = -60.0;

/// How often what is kept is sampled, in Hz.
const RATE: u32 = 22_050;

/// Samples that are resampled at once.
const CHUNK: usize = 1_024;

/// Why a sound cannot be taken.
#[derive(Debug, PartialEq, thiserror::Error)]
pub enum ChimeError {
    /// It is none that this program reads.
    #[error("That is no sound that this program reads. Take a WAV, FLAC or MP3 file.")]
    NoSound,
    /// It breaks off, or is damaged.
    #[error("The sound cannot be read to its end ({0}). Save it again as WAV, and send that.")]
    Damaged(String),
    /// Too short or too long.
    #[error("The sound lasts {0:.2} s; a chime lasts 0.1 to 6 s. Cut it, and send it again.")]
    Length(f64),
    /// Nothing is heard.
    #[error("Nothing is heard in that sound: it is quieter than −60 dB all the way. Take another one.")]
    Silent,
}

/// A sound as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct Chime {
    /// Its bytes and its id.
    pub sound: Picture,
    /// How long it is, in ms.
    pub length_ms: u32,
    /// How loud it is now, in LUFS; none where it is too short to be measured.
    pub loudness: Option<f64>,
    /// Its highest sample now, in dB of full scale.
    pub peak: f64,
}

/// One channel of sound.
struct Mono {
    samples: Vec<f32>,
    rate: u32,
}

/// Reads, checks and evens out what was uploaded.
///
/// # Errors
/// Why it cannot be taken.
pub fn taken(bytes: &[u8]) -> Result<Chime, ChimeError> {
    let mono = resampled(read(bytes)?)?;
    let seconds = mono.samples.len() as f64 / f64::from(mono.rate);
    if !(SHORTEST_S..=LONGEST_S).contains(&seconds) {
        return Err(ChimeError::Length(seconds));
    }
    let was = peak(&mono.samples);
    if decibels(was) < SILENCE {
        return Err(ChimeError::Silent);
    }
    // As loud as chimes are, and never above the ceiling.
    let to_loudness = loudness(&mono).map_or(f64::INFINITY, |is| LOUDNESS - is);
    let gain = to_loudness.min(PEAK - decibels(was));
    let factor = 10f64.powf(gain / 20.0) as f32;
    let evened = Mono { samples: mono.samples.iter().map(|sample| sample * factor).collect(), rate: mono.rate };
    let wav = written(&evened).map_err(|error| ChimeError::Damaged(error.to_string()))?;
    let sound = Picture::of(wav).filter(|sound| sound.bytes.len() <= SOUND_MAX).ok_or(ChimeError::Length(seconds))?;
    let length_ms = (seconds * 1_000.0).round() as u32;
    Ok(Chime { sound, length_ms, loudness: loudness(&evened), peak: decibels(peak(&evened.samples)) })
}

fn decibels(level: f32) -> f64 {
    20.0 * f64::from(level).max(1e-9).log10()
}

fn peak(samples: &[f32]) -> f32 {
    samples.iter().fold(0.0, |most, sample| most.max(sample.abs()))
}

/// Integrated loudness in LUFS; none where it is too short for that.
fn loudness(mono: &Mono) -> Option<f64> {
    let mut meter = EbuR128::new(1, mono.rate, Mode::I).ok()?;
    meter.add_frames_f32(&mono.samples).ok()?;
    meter.loudness_global().ok().filter(|loudness| loudness.is_finite())
}

/// The channels of a file, as their mean.
fn read(bytes: &[u8]) -> Result<Mono, ChimeError> {
    let stream = MediaSourceStream::new(Box::new(Cursor::new(bytes.to_vec())), Default::default());
    let probe = symphonia::default::get_probe();
    let (formats, tags) = (FormatOptions::default(), MetadataOptions::default());
    let mut format = probe.probe(&Hint::new(), stream, formats, tags).map_err(|_| ChimeError::NoSound)?;
    let track = format.default_track(TrackType::Audio).ok_or(ChimeError::NoSound)?;
    let id = track.id;
    let parameters = track.codec_params.as_ref().and_then(|known| known.audio()).ok_or(ChimeError::NoSound)?;
    let codecs = symphonia::default::get_codecs();
    let decoder = codecs.make_audio_decoder(parameters, &AudioDecoderOptions::default());
    let mut decoder = decoder.map_err(|_| ChimeError::NoSound)?;
    let damaged = |error: Unreadable| ChimeError::Damaged(error.to_string());
    let (mut samples, mut rate) = (Vec::new(), 0);
    // Whoever sends an hour is told so before all of it is read.
    let most = |rate: u32| (LONGEST_S * 2.0 * f64::from(rate)) as usize;
    loop {
        let packet = match format.next_packet() {
            Ok(Some(packet)) => packet,
            Ok(None) => break,
            Err(error) => return Err(damaged(error)),
        };
        if packet.track_id != id {
            continue;
        }
        let part = decoder.decode(&packet).map_err(damaged)?;
        rate = part.spec().rate();
        let channels = part.spec().channels().count().max(1);
        let mut interleaved = vec![0f32; part.samples_interleaved()];
        part.copy_to_slice_interleaved(&mut interleaved);
        samples.extend(interleaved.chunks(channels).map(|frame| frame.iter().sum::<f32>() / channels as f32));
        if samples.len() > most(rate) {
            return Err(ChimeError::Length(samples.len() as f64 / f64::from(rate)));
        }
    }
    if rate == 0 || samples.is_empty() {
        return Err(ChimeError::NoSound);
    }
    Ok(Mono { samples, rate })
}

fn resampled(mono: Mono) -> Result<Mono, ChimeError> {
    if mono.rate == RATE {
        return Ok(mono);
    }
    let damaged = |why: String| ChimeError::Damaged(why);
    let (from, to) = (mono.rate as usize, RATE as usize);
    let mut resampler = FftFixedIn::<f32>::new(from, to, CHUNK, 1, 1).map_err(|error| damaged(error.to_string()))?;
    let wanted = (mono.samples.len() as u64 * u64::from(RATE) / u64::from(mono.rate)) as usize;
    let delay = resampler.output_delay();
    let mut samples: Vec<f32> = Vec::with_capacity(wanted + delay);
    for chunk in mono.samples.chunks(CHUNK) {
        let part = if chunk.len() == CHUNK {
            resampler.process(&[chunk], None)
        } else {
            resampler.process_partial(Some(&[chunk]), None)
        };
        samples.extend(part.map_err(|error| damaged(error.to_string()))?.into_iter().flatten());
    }
    // What is still under way inside of it.
    while samples.len() < wanted + delay {
        let rest = resampler.process_partial::<Vec<f32>>(None, None).map_err(|error| damaged(error.to_string()))?;
        if rest.iter().all(Vec::is_empty) {
            break;
        }
        samples.extend(rest.into_iter().flatten());
    }
    let samples = samples.into_iter().skip(delay).take(wanted).collect();
    Ok(Mono { samples, rate: RATE })
}

fn written(mono: &Mono) -> Result<Vec<u8>, hound::Error> {
    let spec = hound::WavSpec {
        channels: 1,
        sample_rate: mono.rate,
        bits_per_sample: 16,
        sample_format: hound::SampleFormat::Int,
    };
    let mut bytes = Cursor::new(Vec::new());
    let mut writer = hound::WavWriter::new(&mut bytes, spec)?;
    for sample in &mono.samples {
        writer.write_sample((sample.clamp(-1.0, 1.0) * f32::from(i16::MAX)).round() as i16)?;
    }
    writer.finalize()?;
    Ok(bytes.into_inner())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// A sine of so many seconds at a level of full scale.
    fn sine(seconds: f64, level: f32, rate: u32) -> Vec<u8> {
        let many = (seconds * f64::from(rate)) as usize;
        let at = |n: usize| (n as f64 * 1_000.0 * std::f64::consts::TAU / f64::from(rate)).sin() as f32 * level;
        written(&Mono { samples: (0..many).map(at).collect(), rate }).unwrap()
    }

    /// EBU Tech 3341, case 1: a stereo sine of 1 kHz at −23 dBFS reads −23 LUFS; one channel alone reads 3 LU less.
    #[test]
    fn the_meter_reads_what_the_ebu_says() {
        let level = 10f32.powf(-23.0 / 20.0);
        let mono = read(&sine(5.0, level, 48_000)).unwrap();
        let is = loudness(&mono).unwrap();
        assert!((is - -26.0).abs() < 0.1, "{is}");
    }

    #[rstest]
    #[case::quiet(0.01)]
    #[case::loud(0.9)]
    fn a_chime_is_as_loud_as_any_other_and_under_the_ceiling(#[case] level: f32) {
        let chime = taken(&sine(1.0, level, 48_000)).unwrap();
        let loudness = chime.loudness.unwrap();
        assert!((loudness - LOUDNESS).abs() < 0.5, "{loudness}");
        assert!(chime.peak <= PEAK + 0.1, "{}", chime.peak);
        assert!((990..=1_010).contains(&chime.length_ms), "{}", chime.length_ms);
        assert_eq!(chime.sound.media_type, "audio/wav");
    }

    #[test]
    fn a_crack_stays_under_the_ceiling_however_quiet_it_is_in_the_mean() {
        let mut samples = vec![0.0001f32; 22_050];
        samples[100] = 0.9;
        let chime = taken(&written(&Mono { samples, rate: RATE }).unwrap()).unwrap();
        assert!(chime.peak <= PEAK + 0.1, "{}", chime.peak);
    }

    #[rstest]
    #[case::none(vec![], "no sound that this program reads")]
    #[case::picture(b"\x89PNG\r\n\x1a\n0000".to_vec(), "no sound that this program reads")]
    #[case::text(b"ding dong".repeat(40), "no sound that this program reads")]
    #[case::short(sine(0.05, 0.5, 48_000), "lasts 0.05 s; a chime lasts 0.1 to 6 s")]
    #[case::long(sine(9.0, 0.5, 22_050), "lasts 9.00 s")]
    #[case::an_hour(sine(60.0, 0.5, 8_000), "a chime lasts 0.1 to 6 s")]
    #[case::silent(sine(1.0, 0.0, 48_000), "Nothing is heard")]
    fn what_is_no_chime_is_refused_with_what_to_do(#[case] bytes: Vec<u8>, #[case] says: &str) {
        let said = taken(&bytes).unwrap_err().to_string();
        assert!(said.contains(says), "{said}");
    }

    #[test]
    fn half_a_file_is_no_crash() {
        let whole = sine(1.0, 0.5, 44_100);
        for cut in [10, 44, 100, whole.len() / 2] {
            let _ = taken(&whole[..cut]);
        }
    }
}
