! All that changes while a kiln is fired.
module kiln_state
  use kinds, only: wp
  use chamber, only: kiln_chamber
  use mesh, only: column_mesh, mesh_of
  use settings, only: firing_settings
  use temperature_field, only: make_room
  use units, only: kelvin
  implicit none
  private
  public :: kiln, kiln_of
  type :: kiln
    type(firing_settings) :: settings
    type(kiln_chamber) :: room
    type(column_mesh) :: grid
    real(wp) :: air = 0.0_wp
    real(wp) :: hottest = 0.0_wp
  end type kiln
contains
  type(kiln) function kiln_of(settings)
    type(firing_settings), intent(in) :: settings
    kiln_of%settings = settings
    kiln_of%grid = mesh_of(settings%cells, settings%thickness)
    kiln_of%air = kelvin(20.0_wp)
    kiln_of%hottest = kiln_of%air
    call make_room(settings%cells, settings%columns, kiln_of%air)
  end function kiln_of
end module kiln_state
