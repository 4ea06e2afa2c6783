namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>Jobs as technicians meet them, and what must come out: <see cref="Situation"/> has the words.</summary>
public sealed class WorkedCasesTests
{
    [Theory]
    // Sound, and next to nothing.
    [InlineData("petrol 4 => engine inconclusive; nobody; 1 sound 0.7")]
    [InlineData("petrol 4; dry 190 188 191 189 => engine sound; nobody; 1 sound 0.9; 4 sound 0.9")]
    [InlineData("petrol 4; dry 190 - - - => engine inconclusive; nobody; first compression-dry 2")]
    [InlineData("petrol 6; dry 191 189 190 188 192 190 => engine sound; nobody")]
    [InlineData("diesel 6; dry 420 415 418 422 416 419 => engine sound; nobody")]
    [InlineData("petrol 4; nofigures; dry 180 178 181 179 => engine sound; nobody; code spec-missing")]
    [InlineData("petrol 2; dry 190 189 => nobody; 1 sound 0.85")]
    [InlineData("petrol 12 v 1-2-3-4-5-6/7-8-9-10-11-12; dry 190 189 191 190 188 190 191 189 190 188 191 190 => engine sound; nobody")]
    // One low, dry only: low is said, why is not.
    [InlineData("petrol 4; dry 190 188 131 191 => 3 state low; not 3 sound 0.1; next leak-down 3; 1 sound 0.85")]
    [InlineData("petrol 4; dry 190 188 165 191 => 3 state watch; next leak-down 3; 2 sound 0.8")]
    [InlineData("petrol 4; dry 190 188 5 191 => 3 state dead; not 3 sound 0.05; engine faulty")]
    // Nothing at all on the gauge: a valve that does not come to its seat as well as a hole in the crown, until somebody listens.
    [InlineData("petrol 4; dry 190 188 0 191 => 3 state dead; not 3 sound 0.05; not 3 piston 0.55; not 3 exhaust-valve 0.55; next leak-down 3")]
    [InlineData("diesel 4; dry 420 418 0 421 => 3 state dead; not 3 sound 0.05; not 3 piston 0.6; next leak-down 3")]
    [InlineData("petrol 4; dry 190 188 0 191; leak 3 99 exhaust 3 => 3 leads exhaust-valve; 3 exhaust-valve 0.7; not 3 piston 0.2")]
    [InlineData("petrol 4; dry 190 188 0 191; leak 3 99 intake 3 => 3 leads intake-valve; 3 intake-valve 0.6")]
    [InlineData("petrol 4; dry 190 188 0 191; leak 3 99 crankcase 3 => 3 leads piston; 3 piston 0.8; not 3 rings 0.1")]
    [InlineData("petrol 4; dry 0 188 190 0; seen timing-jumped => 1 state dead; 4 state dead; not 1 piston 0.4; not 4 piston 0.4")]
    // A hole of middling size, with no oil to bring anything back.
    [InlineData("petrol 4; dry 190 188 45 191; leak 3 99 crankcase 3; wet 3 46 => 3 leads piston; 3 piston 0.7; not 3 rings 0.2")]
    [InlineData("diesel 8; wetallowed; dry 420 418 90 421 419 417 420 418; leak 3 98 crankcase 3; wet 3 95 => 3 leads piston; 3 piston 0.6")]
    [InlineData("diesel 4; dry 420 418 300 421 => 3 state low; not 3 sound 0.1")]
    // Exhaust valve: mild and severe, with what tells it.
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3 crankcase 1 => 3 leads exhaust-valve; 3 exhaust-valve 0.85; 3 state low; engine faulty")]
    [InlineData("petrol 4; dry 190 188 164 191; leak 3 56 exhaust 2 => 3 leads exhaust-valve; 3 exhaust-valve 0.6; engine faulty")]
    [InlineData("petrol 4; dry 190 188 131 191; wet 3 135 => not 3 rings 0.2")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3; wet 3 136; seen exhaust-puffing => 3 exhaust-valve 0.95; not 3 rings 0.05")]
    [InlineData("diesel 4; dry 420 418 230 421; leak 3 85 exhaust 3 => 3 leads exhaust-valve; 3 exhaust-valve 0.8")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3; clearance 3 exhaust 0.05 0.2 0.3 => 3 exhaust-valve 0.9")]
    // Intake valve.
    [InlineData("petrol 4; dry 190 131 188 191; leak 2 85 intake 3 => 2 leads intake-valve; 2 intake-valve 0.85; engine faulty")]
    [InlineData("petrol 4; dry 190 160 188 191; leak 2 60 intake 2; seen intake-popping => 2 leads intake-valve; 2 intake-valve 0.7")]
    [InlineData("petrol 4; dry 190 131 188 191; leak 2 85 intake 3 plughole3 2 => 2 leads intake-valve; not 2 gasket-adjacent 0.3")]
    // Rings, and what looks like them.
    [InlineData("petrol 4; dry 190 188 131 191; wet 3 160 => 3 leads rings; 3 rings 0.5")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 89 crankcase 3; wet 3 160 => 3 rings 0.85; engine faulty; 3 state low")]
    [InlineData("petrol 4; dry 190 188 160 191; leak 3 70 crankcase 2; wet 3 181 => 3 leads rings; 3 rings 0.7")]
    [InlineData("diesel 4; wetallowed; dry 420 418 300 421; wet 3 370; leak 3 75 crankcase 3 => 3 leads rings; 3 rings 0.7")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 89 crankcase 3; plug 3 oil-wet; seen blue-smoke => 3 leads rings")]
    [InlineData("petrol 4; dry 190 188 30 191; leak 3 99 crankcase 3; wet 3 31; seen blow-by => 3 leads piston; 3 piston 0.5")]
    [InlineData("petrol 4; dry 190 188 150 191; leak 3 70 crankcase 2; wet 3 178; plug 3 fuel-wet; seen flooded => 3 leads fuel-washed")]
    // Two faults in one cylinder.
    [InlineData("petrol 4; dry 190 188 110 191; leak 3 92 exhaust 3 crankcase 3 => engine faulty; not 3 sound 0.05; 3 also")]
    // Gasket between neighbours.
    [InlineData("petrol 4; dry 190 120 122 191; leak 2 90 plughole3 3; leak 3 90 plughole2 3 => 2 leads gasket-adjacent; 2 gasket-adjacent 0.9; 3 gasket-adjacent 0.9; engine faulty")]
    [InlineData("petrol 4; dry 190 120 122 191 => 2 leads gasket-adjacent; 3 leads gasket-adjacent; 1 sound 0.85")]
    [InlineData("petrol 4; dry 190 120 122 191; wet 2 123 3 125 => 2 gasket-adjacent 0.6; not 2 rings 0.1")]
    [InlineData("petrol 4; dry 120 188 190 122 => not 1 gasket-adjacent 0.2; not 4 gasket-adjacent 0.2")]
    [InlineData("petrol 4; dry 190 188 131 191 => not 3 gasket-adjacent 0.15")]
    [InlineData("petrol 6 v 1-3-5/2-4-6; dry 120 122 190 189 191 188 => not 1 gasket-adjacent 0.2")]
    [InlineData("petrol 6 v 1-3-5/2-4-6; dry 120 190 122 189 191 188 => 1 leads gasket-adjacent; 3 leads gasket-adjacent")]
    [InlineData("petrol 4 flat 1-3/2-4; dry 120 190 122 191; leak 1 90 plughole3 3; leak 3 90 plughole1 3 => 1 gasket-adjacent 0.9; 3 gasket-adjacent 0.9")]
    [InlineData("petrol 4; dry 120 122 118 121; nominal 190 => not 2 gasket-adjacent 0.6")]
    // Coolant.
    [InlineData("petrol 4; dry 190 188 189 191; seen coolant-loss coolant-bubbles; gas positive => cause gasket-coolant 0.8; engine faulty; nobody")]
    [InlineData("petrol 4; dry 190 188 189 191; seen coolant-loss => next combustion-gas; nobody")]
    [InlineData("petrol 4; dry 190 188 189 191; seen coolant-loss cap-or-hose-damaged; gas negative => cause coolant-path-elsewhere 0.5; nobody")]
    [InlineData("petrol 4; dry 190 188 182 191; leak 3 35 coolant 3; seen coolant-loss; gas positive => 3 leads gasket-coolant; 3 gasket-coolant 0.7; cause gasket-coolant 0.9")]
    [InlineData("petrol 4; has oil-cooler; dry 190 188 189 191; seen oil-in-coolant milky-oil => cause coolant-path-elsewhere 0.4; nobody")]
    [InlineData("petrol 4; has egr-cooler; dry 190 188 189 191; gas positive => not-cause gasket-coolant 0.5; nobody")]
    [InlineData("petrol 4; with throttle-closed; dry 172 171 173 170; seen coolant-loss coolant-bubbles; gas positive => cause gasket-coolant 0.8; engine faulty")]
    // What moves and does not seal worse.
    [InlineData("petrol 4; dry 195 188 189 191; leak 1 10; run 1 70 75; run 2 100 163; run 3 101 165; run 4 99 162 => 1 leads intake-not-opening; 1 intake-not-opening 0.8")]
    [InlineData("petrol 4; dry 190 188 189 191; run 1 145 150; run 2 100 163; run 3 101 165; run 4 99 162 => 1 leads exhaust-not-opening; 1 exhaust-not-opening 0.8")]
    [InlineData("petrol 4; dry 190 188 150 191; leak 3 9; wet 3 156; seen ingested-liquid => 3 leads short-stroke; 3 short-stroke 0.7")]
    [InlineData("petrol 4; dry 190 188 218 191; seen pinging => 3 leads carbon; 3 state high")]
    [InlineData("petrol 4; dry 190 188 189 191; run 1 150 142; run 2 148 144; run 3 151 143; run 4 149 141 => cause exhaust-restriction 0.6; nobody")]
    // The whole engine.
    // Oil is used and everything seals: no cylinder is blamed.
    [InlineData("petrol 4; dry 190 188 191 189; wet 1 197 2 196; leak 1 9; leak 2 8; leak 3 10; seen oil-use blue-smoke => cause oil-control 0.5; engine watch; nobody")]
    [InlineData("petrol 4; dry 190 188 191 189; seen misfire => engine sound; nobody; cause none 0.8")]
    [InlineData("petrol 4; dry 130 128 131 129; wet 1 158 2 156 3 159 4 157; seen oil-use => cause general-wear 0.6; nobody")]
    [InlineData("petrol 4; dry 130 128 131 129; leak 1 9; leak 2 10; leak 3 8; seen timing-jumped => cause cam-timing 0.7; nobody")]
    [InlineData("petrol 6 v 1-3-5/2-4-6; dry 150 190 149 189 151 191 => cause cam-timing 0.3; not 1 sound 0.999")]
    [InlineData("petrol 4; dry 215 214 216 213 => nobody; not-cause general-wear 0.2")]
    // The test explains this, not the engine.
    [InlineData("petrol 4; with throttle-closed; dry 170 168 171 169 => nobody; code throttle-closed; first compression-dry 1; cause test-error 0.4")]
    [InlineData("petrol 4; with throttle-closed; minimum 175; dry 165 164 166 163 => nobody; engine inconclusive")]
    [InlineData("petrol 4; with head-valve; dry 158 157 159 156 => nobody; code check-valve-in-head")]
    [InlineData("petrol 4; with battery-weak; dry 180 174 168 162 => nobody; code battery-weak")]
    [InlineData("petrol 4; with cold; dry 176 175 177 174 => nobody; code engine-cold")]
    [InlineData("petrol 4; with not-at-zero; dry 180 179 181 178 => nobody; code gauge-not-zero")]
    [InlineData("petrol 4; with one-at-a-time; dry 184 183 185 182 => nobody; code plugs-one-at-a-time")]
    [InlineData("petrol 4; dry 174 173 175 172; pulses 3 3 3 3 => nobody; code pulses-few")]
    [InlineData("petrol 4; dry 190 189 170 191; pulses 6 6 2 6 => nobody; code pulses-unequal")]
    [InlineData("petrol 4; with throttle-closed; dry 170 168 95 169; leak 3 85 exhaust 3 => 3 exhaust-valve 0.8; 1 sound 0.85; engine faulty")]
    [InlineData("petrol 4; dry 190 188 150 191; repeat 3 189 => code does-not-repeat; first compression-dry 3; not 3 sound 0.99; engine inconclusive")]
    [InlineData("petrol 4; dry 190 188 131 191; repeat 3 130 => not 3 test-error 0.1; 3 state low")]
    [InlineData("petrol 4; dry 190 188 131 191; rel 100 99 100 99 => 3 leads test-error; first compression-dry 3")]
    [InlineData("petrol 4; dry 190 188 189 191; leak 3 85 intake 3 => code leak-down-off-tdc; nobody; first leak-down 3")]
    [InlineData("petrol 4; dry 190 188 189 191; leak 3 96 exhaust 3 intake 3 => code leak-down-wrong-stroke; nobody; first leak-down 3")]
    [InlineData("petrol 4; dry 190 188 189 191; leak 3 0 => code leak-down-check-valve-left-in; nobody")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 10; leak 2 9; leak 1 11 => 3 leads test-error; not 3 exhaust-valve 0.1; not 3 rings 0.1; engine inconclusive; first compression-dry 3")]
    [InlineData("petrol 4; dry 13 188 190 191 => code unit-doubtful; 1 state untested; nobody")]
    // Relative compression alone.
    [InlineData("petrol 4; rel 100 98 62 99 => 3 state low; not 3 sound 0.2; 1 sound 0.8")]
    [InlineData("petrol 4; rel 100 98 99 97 => nobody; 3 sound 0.85")]
    // Complaint with everything sealing: does it breathe?
    [InlineData("petrol 4; dry 190 188 189 191; seen misfire rough-idle => nobody; next compression-running 1")]
    [InlineData("petrol 4; dry 190 188 189 191; leak 1 9; leak 2 10; leak 3 11; leak 4 9; wet 1 198 2 196 => engine sound; 1 sound 0.93")]
    public void A_job_comes_out_as_a_technician_would_say(string text) => Situation.Holds(text);
}
