"""What can be done to a document: each edit is a value with a label, and gives a new document or
refuses in words. `History` keeps what was done. Names are what views send; the rest of the
program imports from the modules.
"""

from anakinema.edits.admit import made
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.cams import RemoveSegment, SetCam, SetFollower, SetSegment, SplitSegment
from anakinema.edits.hardware import PutHardware, RemoveHardware
from anakinema.edits.joints import ReverseJoint, can_reverse
from anakinema.edits.kept import Keep, RemoveKept, SetKept
from anakinema.edits.measured_in import SetUnits
from anakinema.edits.outline import (
    AddCorner,
    AddHole,
    AddPlace,
    OutlineKey,
    RemoveCorner,
    RemoveHole,
    SetCorner,
    SetPlace,
    SetShape,
    SetSlab,
    outline_in,
)
from anakinema.edits.parts import AddParameter, RemoveParameter, SetPart, SplitPart
from anakinema.edits.pictures import AddPicture, RemovePicture, SetPicture, scaled_by
from anakinema.edits.planes import AddPlane, MoveToPlane, OnPlane, RemovePlane, SetPlane
from anakinema.edits.program import (
    AddMove,
    AddStage,
    RemoveMove,
    RemoveStage,
    SetDriver,
    SetProgramOption,
    SetStage,
    SetStageTarget,
)
from anakinema.edits.relations import AddRelation, RemoveRelation, SetRelation
from anakinema.edits.requirements import Ask, MoveRequirement, ReplaceRequirement, SetRequirement
from anakinema.edits.sheets import SetSheetDimension, SetSheets
from anakinema.edits.structure import Remove, SetBody, SetJoint, SetPoses
from anakinema.edits.subassemblies import SetInstance, SetSubassembly
from anakinema.edits.values import (
    SetBelt,
    SetBeltWheel,
    SetContact,
    SetCoupling,
    SetDimension,
    SetLimit,
    SetName,
    SetParameter,
    SetPose,
)

__all__ = [
    "AddCorner",
    "AddHole",
    "AddMove",
    "AddParameter",
    "AddPicture",
    "AddPlace",
    "AddPlane",
    "AddRelation",
    "AddStage",
    "Ask",
    "Edit",
    "Keep",
    "MoveRequirement",
    "MoveToPlane",
    "OnPlane",
    "OutlineKey",
    "PutHardware",
    "Remove",
    "RemoveCorner",
    "RemoveHardware",
    "RemoveHole",
    "RemoveKept",
    "RemoveMove",
    "RemoveParameter",
    "RemovePicture",
    "RemovePlane",
    "RemoveRelation",
    "RemoveSegment",
    "RemoveStage",
    "ReplaceRequirement",
    "ReverseJoint",
    "SetBelt",
    "SetBeltWheel",
    "SetBody",
    "SetCam",
    "SetContact",
    "SetCorner",
    "SetCoupling",
    "SetDimension",
    "SetDriver",
    "SetFollower",
    "SetInstance",
    "SetJoint",
    "SetKept",
    "SetLimit",
    "SetName",
    "SetParameter",
    "SetPart",
    "SetPicture",
    "SetPlace",
    "SetPlane",
    "SetPose",
    "SetPoses",
    "SetProgramOption",
    "SetRelation",
    "SetRequirement",
    "SetSegment",
    "SetShape",
    "SetSheetDimension",
    "SetSheets",
    "SetSlab",
    "SetStage",
    "SetStageTarget",
    "SetSubassembly",
    "SetUnits",
    "SplitPart",
    "SplitSegment",
    "Together",
    "can_reverse",
    "fresh_id",
    "made",
    "outline_in",
    "scaled_by",
]
