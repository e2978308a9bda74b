// SUNDIALS' objects with owners, and its return codes looked at.
#pragma once
#include "units/promise.h"
#include <ida/ida.h>
#include <kinsol/kinsol.h>
#include <memory>
#include <nvector/nvector_serial.h>
#include <sundials/sundials_context.h>
#include <sundials/sundials_linearsolver.h>

namespace ng::sundials {

/// A set-up call that fails is a fault of this program.
inline void check(int flag, const char* call) {
    promise(flag >= 0, call);
}
template <class T> T* made(T* object, const char* what) {
    promise(object != nullptr, what);
    return object;
}
inline void* made(void* object, const char* what) {
    promise(object != nullptr, what);
    return object;
}
inline void silent(int, const char*, const char*, char*, void*) {} // what goes wrong is read from the codes

class Context {
  public:
    Context() { check(SUNContext_Create(nullptr, &context_), "SUNContext_Create"); }
    ~Context() { SUNContext_Free(&context_); }
    Context(const Context&) = delete;
    Context& operator=(const Context&) = delete;
    SUNContext get() const { return context_; }

  private:
    SUNContext context_ = nullptr;
};

class Vector {
  public:
    Vector(sunindextype size, const Context& context)
        : v_(made(N_VNew_Serial(size, context.get()), "N_VNew_Serial")) {
        N_VConst(0, v_);
    }
    ~Vector() { N_VDestroy(v_); }
    Vector(const Vector&) = delete;
    Vector& operator=(const Vector&) = delete;
    N_Vector get() const { return v_; }
    double* data() const { return N_VGetArrayPointer(v_); }

  private:
    N_Vector v_;
};

class LinearSolver {
  public:
    explicit LinearSolver(SUNLinearSolver solver) : solver_(made(solver, "SUNLinearSolver")) {}
    ~LinearSolver() { SUNLinSolFree(solver_); }
    LinearSolver(const LinearSolver&) = delete;
    LinearSolver& operator=(const LinearSolver&) = delete;
    SUNLinearSolver get() const { return solver_; }

  private:
    SUNLinearSolver solver_;
};

class Ida {
  public:
    explicit Ida(const Context& context) : memory_(made(IDACreate(context.get()), "IDACreate")) {
        check(IDASetErrHandlerFn(memory_, silent, nullptr), "IDASetErrHandlerFn");
    }
    ~Ida() { IDAFree(&memory_); }
    Ida(const Ida&) = delete;
    Ida& operator=(const Ida&) = delete;
    void* get() const { return memory_; }

  private:
    void* memory_;
};

class Kinsol {
  public:
    explicit Kinsol(const Context& context) : memory_(made(KINCreate(context.get()), "KINCreate")) {
        check(KINSetErrHandlerFn(memory_, silent, nullptr), "KINSetErrHandlerFn");
    }
    ~Kinsol() { KINFree(&memory_); }
    Kinsol(const Kinsol&) = delete;
    Kinsol& operator=(const Kinsol&) = delete;
    void* get() const { return memory_; }

  private:
    void* memory_;
};

} // namespace ng::sundials
