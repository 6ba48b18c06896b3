! Dense tiles for floors.
module stoneware_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: stoneware
  type, extends(material) :: stoneware
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type stoneware
contains
  pure real(wp) function conductivity(self, temperature)
    class(stoneware), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 1.3_wp + (0.00011_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(stoneware), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 800.0_wp + 0.25_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(stoneware), intent(in) :: self
    density = 2250.0_wp
  end function density
end module stoneware_material
