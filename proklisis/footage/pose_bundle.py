"""Build the offline body-tracking bundle from the model weights of an npm package.

The task runtime wants one stored zip with a detector and a landmark model, each
carrying metadata that says how the picture is normalised. The published weights
carry none, so it is written here, once, at set-up.
"""

from __future__ import annotations

import argparse
import zipfile
from pathlib import Path

import flatbuffers
from mediapipe.tasks.metadata import metadata_schema_py_generated as meta
from mediapipe.tasks.metadata import schema_py_generated as tflite

#: (mean, standard deviation) each network was trained with, on 0–255 pixels.
DETECTOR_NORM = (127.5, 127.5)
LANDMARK_NORM = (0.0, 255.0)
_ZIP_DATE = (1980, 1, 1, 0, 0, 0)


def _image_metadata(mean: float, std: float) -> bytes:
    """Return packed model metadata with one normalised RGB picture as its input."""
    image = meta.ImagePropertiesT()
    image.colorSpace = meta.ColorSpaceType.RGB
    content = meta.ContentT()
    content.contentPropertiesType = meta.ContentProperties.ImageProperties
    content.contentProperties = image
    norm = meta.NormalizationOptionsT()
    norm.mean, norm.std = [mean], [std]
    unit = meta.ProcessUnitT()
    unit.optionsType = meta.ProcessUnitOptions.NormalizationOptions
    unit.options = norm
    tensor = meta.TensorMetadataT()
    tensor.name = "image"
    tensor.content = content
    tensor.processUnits = [unit]
    graph = meta.SubGraphMetadataT()
    graph.inputTensorMetadata = [tensor]
    model = meta.ModelMetadataT()
    model.subgraphMetadata = [graph]
    builder = flatbuffers.Builder(0)
    builder.Finish(model.Pack(builder), b"M001")
    return bytes(builder.Output())


def with_metadata(model_bytes: bytes, mean: float, std: float) -> bytes:
    """Return a TFLite model with image metadata added, its weights unchanged."""
    model = tflite.ModelT.InitFromObj(tflite.Model.GetRootAs(model_bytes, 0))
    buffer = tflite.BufferT()
    buffer.data = list(_image_metadata(mean, std))
    model.buffers.append(buffer)
    entry = tflite.MetadataT()
    entry.name = "TFLITE_METADATA"
    entry.buffer = len(model.buffers) - 1
    model.metadata = [*(model.metadata or []), entry]
    builder = flatbuffers.Builder(len(model_bytes) + 65536)
    builder.Finish(model.Pack(builder), b"TFL3")
    return bytes(builder.Output())


def build_bundle(package: Path, out: Path, variant: str = "full") -> Path:
    """Write ``out`` (a ``.task`` file) from the unpacked npm package at ``package``.

    Raises FileNotFoundError when the package does not hold the weights.
    """
    detector = (package / "pose_solution_packed_assets.data").read_bytes()
    landmarks = (package / f"pose_landmark_{variant}.tflite").read_bytes()
    out.parent.mkdir(parents=True, exist_ok=True)
    partial = out.with_suffix(".partial")
    with zipfile.ZipFile(partial, "w", zipfile.ZIP_STORED) as bundle:
        for name, data, norm in (
            ("pose_detector.tflite", detector, DETECTOR_NORM),
            ("pose_landmarks_detector.tflite", landmarks, LANDMARK_NORM),
        ):
            bundle.writestr(zipfile.ZipInfo(name, _ZIP_DATE), with_metadata(data, *norm))
    partial.replace(out)
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("package", type=Path)
    parser.add_argument("out", type=Path)
    args = parser.parse_args()
    print(build_bundle(args.package, args.out))


if __name__ == "__main__":
    main()
