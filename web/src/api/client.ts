import createClient from "openapi-fetch";
import type { components, paths } from "./schema.gen";
import { language } from "../lib/language";
import { tokenHeader } from "./token";

type Schemas = components["schemas"];
export type JobState = Schemas["JobState"];
export type JobAnswer = Schemas["JobAnswer"];
export type History = Schemas["History"];
export type Deleted = Schemas["Deleted"];
export type Me = Schemas["Me"];
export type Role = Schemas["PersonRole"];
export type Person = Schemas["Person"];
export type Invitation = Schemas["Invitation"];
export type Share = Schemas["Share"];
export type Logged = Schemas["Logged"];
export type Newer = Schemas["Newer"];
export type FromModel = Schemas["FromModel"];
export type JobSummary = Schemas["JobSummary"];
export type FirmLine = Schemas["FirmLine"];
export type FoundJob = Schemas["FoundJob"];
export type KeptWay = Schemas["KeptWay"];
export type WayHere = Schemas["WayHere"];
export type WallView = Schemas["WallView"];
export type Elevation = Schemas["Elevation"];
export type OpeningView = Schemas["OpeningView"];
export type Shape = Schemas["Shape"];
export type StepPicture = Schemas["StepPicture"];
export type StepView = Schemas["StepView"];
export type Finding = Schemas["FindingView"];
export type Section = Schemas["Section"];
export type SectionKind = Schemas["SectionKind"];
export type CutGroup = Schemas["CutGroup"];
export type Bar = Schemas["Bar"];
export type Truck = Schemas["Truck"];
export type StepsOfDay = Schemas["StepsOfDay"];
export type Covering = Schemas["Covering"];
export type By = Schemas["By"];
export type Progress = Schemas["Progress"];
export type Day = Schemas["Day"];
export type Attribute = Schemas["Attribute"];
export type ProfileAnswer = Schemas["ProfileAnswer"];
export type OrderLine = Schemas["OrderLine"];
export type SoldSize = Schemas["SoldSize"];
export type OwnProduct = Schemas["OwnProduct"];
export type Held = Schemas["Held"];
export type Pair = Schemas["Pair"];
export type PairVerdict = Schemas["PairVerdict"];
export type Mix = Schemas["Mix"];
export type Mixed = Schemas["Mixed"];
export type Figure = Schemas["FigureView"];
export type Edit = Schemas["Edit"];
export type Corner = Schemas["CornerSpec"];
export type Level = Schemas["LevelSpec"];
export type TopShape = Schemas["TopShape"];
export type KeyWall = Schemas["KeyWall"];
export type Trade = StepView["trade"];
export type Phase = StepView["phase"];
export type FeatureKind = Schemas["FeatureKind"];
export type Field = Schemas["Field"];
export type Schedule = Schemas["Schedule"];
export type Weather = Schemas["Weather"];
export type Moment = Schemas["Moment"];
export type Question = Schemas["QuestionView"];
export type BuildUp = Schemas["BuildUpView"];
export type Choice = Schemas["ChoiceView"];
export type Night = Schemas["NightView"];
export type Exploded = Schemas["Exploded"];
export type Comparison = Schemas["Comparison"];
export type Side = Schemas["ComparedSide"];
export type Choices = Schemas["ChoicePictures"];
export type Heads = Schemas["HeadsView"];
export type StrategyAnswer = Schemas["StrategyAnswer"];
export type Strategy = Schemas["Strategy"];
export type Advice = Schemas["Advice"];
export type Remedy = Schemas["RemedyView"];
export type Verdict = Schemas["VerdictView"];
export type Check = Schemas["Check"];
export type RecordEvent = Schemas["Event"];
export type Entry = Schemas["Entry"];
export type StepState = Schemas["StepState"];
export type Judgement = Schemas["Judgement"];
export type WholeRecord = Schemas["Whole"];
export type Fit = Schemas["Fit"];
export type Conditions = Schemas["Conditions"];
export type GoAnswer = Schemas["GoAnswer"];
export type Holds = Schemas["HoldsView"];
export type FoundAsk = Schemas["FoundAsk"];
export type FoundKind = Schemas["FoundKind"];
export type FoundKindView = Schemas["FoundKindView"];
export type Repairs = Schemas["RepairsView"];
export type Proposal = Schemas["ProposalView"];
export type Drill = Schemas["Drill"];
export type LapView = Schemas["LapView"];
export type LiesView = Schemas["LiesView"];
export type SceneView = Schemas["SceneView"];
export type SceneOf = Schemas["OfScene"];
export type LaidView = Schemas["LaidView"];
export type PracticeAnswer = Schemas["DrillAnswer"];
export type GradedView = Schemas["GradedView"];
export type Mendable = Schemas["Mendable"];
export type PlayedBy = Schemas["PlayedBy"];
export type AnswerSheet = Schemas["AnswerSheet"];
export type CallView = Schemas["CallView"];
export type SceneSheet = Schemas["SceneSheet"];
export type Worth = Schemas["Worth"];
export type Learner = Schemas["Learner"];
export type FaultKnown = Schemas["FaultKnown"];
export type Go = Schemas["Go"];
export type Instrument = Schemas["Instrument"];
export type TestSays = Schemas["TestSays"];
export type TestPicture = Schemas["TestPicture"];
export type SeenWater = Schemas["SeenWater"];
export type CalendarAnswer = Schemas["CalendarAnswer"];
export type Booked = Schemas["Booked"];
export type Booking = Schemas["Booking"];
export type MinutesTaken = Schemas["MinutesTaken"];
export type Hour = Schemas["Hour"];
export type SiteSpec = Schemas["SiteSpec"];
export type RecordLine = Schemas["Line"];
export type Point = Schemas["Point"];
export type ProblemDocument = Schemas["ProblemDocument"];

/** Called where an answer says that nobody has signed in. */
let signedOut: () => void = () => undefined;
export const whenSignedOut = (then: () => void) => void (signedOut = then);

export const api = createClient<paths>({
  baseUrl: location.origin,
  fetch: async (request) => {
    for (const [name, value] of Object.entries(tokenHeader())) request.headers.set(name, value);
    // What was chosen in Kame, not what the browser would ask for.
    request.headers.set("Accept-Language", language);
    const response = await globalThis.fetch(request);
    if (response.status === 401) signedOut();
    return response;
  },
});

/** The sentence of a failed answer. */
export function sentence(problem: unknown, otherwise: string): string {
  if (problem && typeof problem === "object" && "detail" in problem && typeof problem.detail === "string") {
    return problem.detail;
  }
  return otherwise;
}
