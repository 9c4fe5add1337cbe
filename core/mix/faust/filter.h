/* ------------------------------------------------------------
name: "filter"
Code generated with Faust 2.54.9 (https://faust.grame.fr)
Compilation options: -lang cpp -inpl -cn Filter -scn  -es 1 -mcd 16 -double -ftz 0
------------------------------------------------------------ */

#ifndef  __Filter_H__
#define  __Filter_H__

#ifndef FAUSTFLOAT
#define FAUSTFLOAT float
#endif 

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <math.h>

namespace tuvvo::faust {

#ifndef FAUSTCLASS 
#define FAUSTCLASS Filter
#endif

#ifdef __APPLE__ 
#define exp10f __exp10f
#define exp10 __exp10
#endif

#if defined(_WIN32)
#define RESTRICT __restrict
#else
#define RESTRICT __restrict__
#endif


class Filter final {
	
 private:
	
	FAUSTFLOAT fEntry0;
	FAUSTFLOAT fEntry1;
	int fSampleRate;
	double fConst1;
	FAUSTFLOAT fHslider0;
	double fConst2;
	FAUSTFLOAT fHslider1;
	double fRec0[2];
	double fRec1[2];
	double fRec8[2];
	double fRec9[2];
	double fRec4[2];
	double fRec5[2];
	double fRec12[2];
	double fRec13[2];
	double fRec20[2];
	double fRec21[2];
	double fRec16[2];
	double fRec17[2];
	
 public:
	
	void metadata(Meta* m) { 
		m->declare("basics.lib/name", "Faust Basic Element Library");
		m->declare("basics.lib/version", "0.9");
		m->declare("compile_options", "-lang cpp -inpl -cn Filter -scn  -es 1 -mcd 16 -double -ftz 0");
		m->declare("filename", "filter.dsp");
		m->declare("maths.lib/author", "GRAME");
		m->declare("maths.lib/copyright", "GRAME");
		m->declare("maths.lib/license", "LGPL with exception");
		m->declare("maths.lib/name", "Faust Math Library");
		m->declare("maths.lib/version", "2.5");
		m->declare("name", "filter");
		m->declare("platform.lib/name", "Generic Platform Library");
		m->declare("platform.lib/version", "0.3");
		m->declare("signals.lib/name", "Faust Signal Routing Library");
		m->declare("signals.lib/version", "0.3");
	}

	static constexpr int getStaticNumInputs() {
		return 2;
	}
	static constexpr int getStaticNumOutputs() {
		return 2;
	}
	int getNumInputs() {
		return 2;
	}
	int getNumOutputs() {
		return 2;
	}
	
	static void classInit(int sample_rate) {
	}
	
	void instanceConstants(int sample_rate) {
		fSampleRate = sample_rate;
		double fConst0 = std::min<double>(1.92e+05, std::max<double>(1.0, double(fSampleRate)));
		fConst1 = 0.49 * fConst0;
		fConst2 = 3.141592653589793 / fConst0;
	}
	
	void instanceResetUserInterface() {
		fEntry0 = FAUSTFLOAT(0.0);
		fEntry1 = FAUSTFLOAT(0.0);
		fHslider0 = FAUSTFLOAT(1e+03);
		fHslider1 = FAUSTFLOAT(0.0);
	}
	
	void instanceClear() {
		for (int l0 = 0; l0 < 2; l0 = l0 + 1) {
			fRec0[l0] = 0.0;
		}
		for (int l1 = 0; l1 < 2; l1 = l1 + 1) {
			fRec1[l1] = 0.0;
		}
		for (int l2 = 0; l2 < 2; l2 = l2 + 1) {
			fRec8[l2] = 0.0;
		}
		for (int l3 = 0; l3 < 2; l3 = l3 + 1) {
			fRec9[l3] = 0.0;
		}
		for (int l4 = 0; l4 < 2; l4 = l4 + 1) {
			fRec4[l4] = 0.0;
		}
		for (int l5 = 0; l5 < 2; l5 = l5 + 1) {
			fRec5[l5] = 0.0;
		}
		for (int l6 = 0; l6 < 2; l6 = l6 + 1) {
			fRec12[l6] = 0.0;
		}
		for (int l7 = 0; l7 < 2; l7 = l7 + 1) {
			fRec13[l7] = 0.0;
		}
		for (int l8 = 0; l8 < 2; l8 = l8 + 1) {
			fRec20[l8] = 0.0;
		}
		for (int l9 = 0; l9 < 2; l9 = l9 + 1) {
			fRec21[l9] = 0.0;
		}
		for (int l10 = 0; l10 < 2; l10 = l10 + 1) {
			fRec16[l10] = 0.0;
		}
		for (int l11 = 0; l11 < 2; l11 = l11 + 1) {
			fRec17[l11] = 0.0;
		}
	}
	
	void init(int sample_rate) {
		classInit(sample_rate);
		instanceInit(sample_rate);
	}
	void instanceInit(int sample_rate) {
		instanceConstants(sample_rate);
		instanceResetUserInterface();
		instanceClear();
	}
	
	Filter* clone() {
		return new Filter();
	}
	
	int getSampleRate() {
		return fSampleRate;
	}
	
	void buildUserInterface(UI* ui_interface) {
		ui_interface->openVerticalBox("filter");
		ui_interface->addHorizontalSlider("cutoff", &fHslider0, FAUSTFLOAT(1e+03), FAUSTFLOAT(2e+01), FAUSTFLOAT(2e+04), FAUSTFLOAT(1.0));
		ui_interface->addNumEntry("mode", &fEntry1, FAUSTFLOAT(0.0), FAUSTFLOAT(0.0), FAUSTFLOAT(3.0), FAUSTFLOAT(1.0));
		ui_interface->addHorizontalSlider("resonance", &fHslider1, FAUSTFLOAT(0.0), FAUSTFLOAT(0.0), FAUSTFLOAT(24.0), FAUSTFLOAT(0.1));
		ui_interface->addNumEntry("slope", &fEntry0, FAUSTFLOAT(0.0), FAUSTFLOAT(0.0), FAUSTFLOAT(1.0), FAUSTFLOAT(1.0));
		ui_interface->closeBox();
	}
	
	void compute(int count, FAUSTFLOAT** inputs, FAUSTFLOAT** outputs) {
		FAUSTFLOAT* input0 = inputs[0];
		FAUSTFLOAT* input1 = inputs[1];
		FAUSTFLOAT* output0 = outputs[0];
		FAUSTFLOAT* output1 = outputs[1];
		int iSlow0 = int(double(fEntry0));
		int iSlow1 = int(double(fEntry1));
		int iSlow2 = iSlow1 >= 2;
		int iSlow3 = iSlow1 >= 1;
		double fSlow4 = std::tan(fConst2 * std::min<double>(fConst1, double(fHslider0)));
		double fSlow5 = std::pow(1e+01, 0.05 * double(fHslider1));
		double fSlow6 = 1.4142135623730951 / fSlow5;
		double fSlow7 = fSlow4 * (fSlow6 + fSlow4) + 1.0;
		double fSlow8 = 2.0 / fSlow7;
		double fSlow9 = fSlow4 / fSlow7;
		double fSlow10 = 1.0 / fSlow7;
		int iSlow11 = iSlow1 >= 3;
		double fSlow12 = fSlow4 * (fSlow4 + 1.8477590650225735) + 1.0;
		double fSlow13 = 2.0 / fSlow12;
		double fSlow14 = fSlow4 / fSlow12;
		double fSlow15 = 1.0 / fSlow12;
		double fSlow16 = 0.7653668647301796 / fSlow5;
		double fSlow17 = fSlow4 * (fSlow16 + fSlow4) + 1.0;
		double fSlow18 = 2.0 / fSlow17;
		double fSlow19 = fSlow4 / fSlow17;
		double fSlow20 = 1.0 / fSlow17;
		for (int i0 = 0; i0 < count; i0 = i0 + 1) {
			double fTemp0 = double(input0[i0]);
			double fTemp1 = double(input1[i0]);
			double fTemp2 = fRec0[1] + fSlow4 * (fTemp0 - fRec1[1]);
			fRec0[0] = fSlow8 * fTemp2 - fRec0[1];
			double fTemp3 = fRec1[1] + fSlow9 * fTemp2;
			fRec1[0] = 2.0 * fTemp3 - fRec1[1];
			double fRec2 = fSlow10 * fTemp2;
			double fRec3 = fTemp3;
			double fTemp4 = fSlow6 * fRec2;
			double fTemp5 = fRec8[1] + fSlow4 * (fTemp0 - fRec9[1]);
			fRec8[0] = fSlow13 * fTemp5 - fRec8[1];
			double fTemp6 = fRec9[1] + fSlow14 * fTemp5;
			fRec9[0] = 2.0 * fTemp6 - fRec9[1];
			double fRec10 = fSlow15 * fTemp5;
			double fRec11 = fTemp6;
			double fTemp7 = 1.8477590650225735 * fRec10;
			double fTemp8 = ((iSlow2) ? ((iSlow11) ? fTemp0 - fTemp7 : fTemp7) : ((iSlow3) ? fTemp0 - (fRec11 + fTemp7) : fRec11));
			double fTemp9 = fRec4[1] + fSlow4 * (fTemp8 - fRec5[1]);
			fRec4[0] = fSlow18 * fTemp9 - fRec4[1];
			double fTemp10 = fRec5[1] + fSlow19 * fTemp9;
			fRec5[0] = 2.0 * fTemp10 - fRec5[1];
			double fRec6 = fSlow20 * fTemp9;
			double fRec7 = fTemp10;
			double fTemp11 = fSlow16 * fRec6;
			output0[i0] = FAUSTFLOAT(((iSlow0) ? ((iSlow2) ? ((iSlow11) ? fTemp8 - fTemp11 : fTemp11) : ((iSlow3) ? fTemp8 - (fRec7 + fTemp11) : fRec7)) : ((iSlow2) ? ((iSlow11) ? fTemp0 - fTemp4 : fTemp4) : ((iSlow3) ? fTemp0 - (fRec3 + fTemp4) : fRec3))));
			double fTemp12 = fRec12[1] + fSlow4 * (fTemp1 - fRec13[1]);
			fRec12[0] = fSlow8 * fTemp12 - fRec12[1];
			double fTemp13 = fRec13[1] + fSlow9 * fTemp12;
			fRec13[0] = 2.0 * fTemp13 - fRec13[1];
			double fRec14 = fSlow10 * fTemp12;
			double fRec15 = fTemp13;
			double fTemp14 = fSlow6 * fRec14;
			double fTemp15 = fRec20[1] + fSlow4 * (fTemp1 - fRec21[1]);
			fRec20[0] = fSlow13 * fTemp15 - fRec20[1];
			double fTemp16 = fRec21[1] + fSlow14 * fTemp15;
			fRec21[0] = 2.0 * fTemp16 - fRec21[1];
			double fRec22 = fSlow15 * fTemp15;
			double fRec23 = fTemp16;
			double fTemp17 = 1.8477590650225735 * fRec22;
			double fTemp18 = ((iSlow2) ? ((iSlow11) ? fTemp1 - fTemp17 : fTemp17) : ((iSlow3) ? fTemp1 - (fRec23 + fTemp17) : fRec23));
			double fTemp19 = fRec16[1] + fSlow4 * (fTemp18 - fRec17[1]);
			fRec16[0] = fSlow18 * fTemp19 - fRec16[1];
			double fTemp20 = fRec17[1] + fSlow19 * fTemp19;
			fRec17[0] = 2.0 * fTemp20 - fRec17[1];
			double fRec18 = fSlow20 * fTemp19;
			double fRec19 = fTemp20;
			double fTemp21 = fSlow16 * fRec18;
			output1[i0] = FAUSTFLOAT(((iSlow0) ? ((iSlow2) ? ((iSlow11) ? fTemp18 - fTemp21 : fTemp21) : ((iSlow3) ? fTemp18 - (fRec19 + fTemp21) : fRec19)) : ((iSlow2) ? ((iSlow11) ? fTemp1 - fTemp14 : fTemp14) : ((iSlow3) ? fTemp1 - (fRec15 + fTemp14) : fRec15))));
			fRec0[1] = fRec0[0];
			fRec1[1] = fRec1[0];
			fRec8[1] = fRec8[0];
			fRec9[1] = fRec9[0];
			fRec4[1] = fRec4[0];
			fRec5[1] = fRec5[0];
			fRec12[1] = fRec12[0];
			fRec13[1] = fRec13[0];
			fRec20[1] = fRec20[0];
			fRec21[1] = fRec21[0];
			fRec16[1] = fRec16[0];
			fRec17[1] = fRec17[0];
		}
	}

};

} // namespace tuvvo::faust

#endif
