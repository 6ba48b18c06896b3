! Mineral wool behind the lining.
module wool_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: wool
  type, extends(material) :: wool
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type wool
contains
  pure real(wp) function conductivity(self, temperature)
    class(wool), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 0.045_wp + (0.00026_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(wool), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 760.0_wp + 0.1_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(wool), intent(in) :: self
    density = 120.0_wp
  end function density
end module wool_material
