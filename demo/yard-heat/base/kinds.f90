! The kinds of numbers that the whole model computes with.
module kinds
  use, intrinsic :: iso_fortran_env, only: real64, int64
  implicit none
  private
  integer, parameter, public :: wp = real64
  integer, parameter, public :: long = int64
end module kinds
