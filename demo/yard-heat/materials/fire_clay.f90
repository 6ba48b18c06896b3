! Fire clay, for the hottest places.
module fire_clay_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: fire_clay
  type, extends(material) :: fire_clay
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type fire_clay
contains
  pure real(wp) function conductivity(self, temperature)
    class(fire_clay), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 1.05_wp + (0.00014_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(fire_clay), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 880.0_wp + 0.23_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(fire_clay), intent(in) :: self
    density = 2050.0_wp
  end function density
end module fire_clay_material
