<template>
  <!-- Each role by its own hatch, so that pieces are told apart without colour. -->
  <defs>
    <pattern id="m-framing" width="1.5" height="1.5" patternUnits="userSpaceOnUse">
      <path d="M0 1.5 1.5 0" stroke="var(--hatch)" stroke-width=".05" fill="none" />
    </pattern>
    <pattern id="m-concrete" width="1.6" height="1.6" patternUnits="userSpaceOnUse">
      <circle cx=".4" cy=".4" r=".09" fill="var(--hatch)" />
      <circle cx="1.1" cy="1" r=".14" fill="var(--hatch)" />
    </pattern>
    <pattern id="m-batt" width="1.4" height="2" patternUnits="userSpaceOnUse">
      <path d="M0 1c.35-1.300.35 1.300.7 0s.35-1.300.7 0" stroke="var(--hatch)" stroke-width=".05" fill="none" />
    </pattern>
    <pattern id="m-boards" width=".9" height=".9" patternUnits="userSpaceOnUse">
      <path d="M0 0 .9 .9M.9 0 0 .9" stroke="var(--hatch)" stroke-width=".04" fill="none" />
    </pattern>
    <pattern id="m-cladding" width=".8" height=".8" patternUnits="userSpaceOnUse">
      <path d="M0 .4h.8" stroke="var(--hatch)" stroke-width=".05" />
    </pattern>
    <pattern id="h-barrier" width="9" height="9" patternUnits="userSpaceOnUse">
      <rect width="9" height="9" fill="var(--f-barrier)" />
      <path d="M0 9 9 0" stroke="var(--hatch)" stroke-width=".12" />
    </pattern>
    <pattern id="h-shape" width="5" height="1.6" patternUnits="userSpaceOnUse">
      <rect width="5" height="1.6" fill="var(--f-shape)" />
      <path d="M0 .8h5" stroke="var(--hatch)" stroke-width=".16" />
    </pattern>
    <pattern id="h-pan" width="2" height="2" patternUnits="userSpaceOnUse">
      <rect width="2" height="2" fill="var(--f-pan)" />
      <path d="M0 0 2 2M2 0 0 2" stroke="var(--hatch)" stroke-width=".14" />
    </pattern>
    <pattern id="h-lining" width="2.4" height="2.4" patternUnits="userSpaceOnUse">
      <rect width="2.4" height="2.4" fill="var(--f-lining)" />
      <circle cx="1.200" cy="1.200" r=".28" fill="var(--hatch)" />
    </pattern>
    <pattern id="h-unit" width="4" height="4" patternUnits="userSpaceOnUse">
      <rect width="4" height="4" fill="var(--f-unit)" />
    </pattern>
    <pattern id="h-jamb" width="1.5" height="4" patternUnits="userSpaceOnUse">
      <rect width="1.5" height="4" fill="var(--f-jamb)" />
      <path d="M.75 0v4" stroke="var(--hatch)" stroke-width=".14" />
    </pattern>
    <pattern id="h-head" width="4" height="1.5" patternUnits="userSpaceOnUse">
      <rect width="4" height="1.5" fill="var(--f-head)" />
      <path d="M0 .75h4" stroke="var(--hatch)" stroke-width=".14" />
    </pattern>
    <pattern id="h-patch" width="1.6" height="1.6" patternUnits="userSpaceOnUse">
      <rect width="1.6" height="1.6" fill="var(--f-patch)" />
      <path d="M0 0 1.600 1.600" stroke="var(--hatch)" stroke-width=".14" />
    </pattern>
    <pattern id="h-corner" width="1.8" height="1.8" patternUnits="userSpaceOnUse">
      <rect width="1.800" height="1.800" fill="var(--f-patch)" />
      <path d="M.9 0v1.800M0 .9h1.800" stroke="var(--hatch)" stroke-width=".14" />
    </pattern>
    <pattern id="h-apron" width="6" height="3" patternUnits="userSpaceOnUse">
      <rect width="6" height="3" fill="var(--f-barrier)" />
      <path d="M0 1.500h3.500" stroke="var(--hatch)" stroke-width=".16" />
    </pattern>
    <pattern id="h-cap" width="3" height="1" patternUnits="userSpaceOnUse">
      <rect width="3" height="1" fill="var(--f-cap)" />
      <path d="M0 .3h3M0 .6h3" stroke="var(--hatch)" stroke-width=".1" />
    </pattern>
    <pattern id="h-joint" width="2" height="2" patternUnits="userSpaceOnUse">
      <rect width="2" height="2" fill="var(--f-jamb)" />
      <path d="M0 2 2 0" stroke="var(--hatch)" stroke-width=".16" />
    </pattern>
    <pattern id="h-band" width="3" height="3" patternUnits="userSpaceOnUse">
      <rect width="3" height="3" fill="var(--f-lining)" />
      <circle cx=".8" cy=".8" r=".2" fill="var(--hatch)" />
      <circle cx="2.200" cy="2" r=".32" fill="var(--hatch)" />
    </pattern>
    <pattern id="h-cover" width="7" height="7" patternUnits="userSpaceOnUse">
      <rect width="7" height="7" fill="var(--f-shape)" />
      <path
        d="M0 1.750q1.750-1.750 3.500 0t3.500 0M0 5.250q1.750-1.750 3.500 0t3.500 0"
        fill="none"
        stroke="var(--hatch)"
        stroke-width=".14"
      />
    </pattern>
    <!-- What stands in the gap lets what is behind it be seen. -->
    <pattern id="h-furring" width="3" height="3" patternUnits="userSpaceOnUse">
      <path d="M0 3 3 0" stroke="var(--hatch)" stroke-width=".22" />
    </pattern>
    <pattern id="h-screen" width="1" height="1" patternUnits="userSpaceOnUse">
      <rect width="1" height="1" fill="var(--f-cap)" />
      <path d="M0 .5h1M.5 0v1" stroke="var(--hatch)" stroke-width=".16" />
    </pattern>
    <pattern id="h-air" width="5" height="8" patternUnits="userSpaceOnUse">
      <path d="M2.500 7V1.500M1 3.400 2.500 1.200 4 3.400" fill="none" stroke="var(--good)" stroke-width=".5" />
    </pattern>
    <pattern id="h-still" width="3.200" height="3.200" patternUnits="userSpaceOnUse">
      <rect width="3.200" height="3.200" fill="var(--leak-soft)" opacity=".75" />
      <path d="M.6 .6 2.600 2.600M2.600 .6.6 2.600" stroke="var(--leak)" stroke-width=".4" />
    </pattern>
    <pattern id="h-wet" width="1.8" height="1.8" patternUnits="userSpaceOnUse" patternTransform="rotate(20)">
      <path d="M.9 0v1.800" stroke="var(--water)" stroke-width=".55" />
    </pattern>
    <pattern id="h-wet-low" width="2.6" height="2.6" patternUnits="userSpaceOnUse" patternTransform="rotate(20)">
      <circle cx="1.300" cy="1.300" r=".45" fill="var(--water)" />
    </pattern>
  </defs>
</template>
