! The layers of the kiln's wall, from the inside.
module wall_layers
  use kinds, only: wp
  use material_base, only: material
  use catalogue, only: take_material
  implicit none
  private
  public :: resistance_of_wall
  character(len=9), parameter :: names(4) = [character(len=9) :: 'fire_clay', 'lining', 'wool', 'shell']
  real(wp), parameter :: thickness(4) = [0.11_wp, 0.23_wp, 0.08_wp, 0.005_wp]
contains
  ! m2 K/W at a mean temperature.
  real(wp) function resistance_of_wall(temperature)
    real(wp), intent(in) :: temperature
    class(material), allocatable :: layer
    integer :: i
    resistance_of_wall = 0.0_wp
    do i = 1, size(names)
      call take_material(trim(names(i)), layer)
      resistance_of_wall = resistance_of_wall + thickness(i)/layer%conductivity(temperature)
    end do
  end function resistance_of_wall
end module wall_layers
