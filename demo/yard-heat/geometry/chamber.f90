! The room in which the columns stand.
module chamber
  use kinds, only: wp
  implicit none
  private
  public :: kiln_chamber
  type :: kiln_chamber
    real(wp) :: air = 18.0_wp      ! m3
    real(wp) :: wall = 42.0_wp     ! m2
    real(wp) :: face = 1.6_wp      ! m2 of one column
  end type kiln_chamber
end module chamber
