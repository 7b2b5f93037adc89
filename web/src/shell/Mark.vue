<template>
  <span class="inline-flex items-center gap-2">
    <svg viewBox="0 0 20 20" class="size-5" aria-hidden="true">
      <g fill="#d9a441">
        <rect x="1" y="3" width="18" height="2.6" rx="1" />
        <rect x="4" y="8" width="12" height="2.6" rx="1" />
        <rect x="7" y="13" width="6" height="2.6" rx="1" />
        <circle cx="10" cy="18" r="1.3" />
      </g>
    </svg>
    <span class="font-serif text-lg font-semibold tracking-wide">gavrik</span>
  </span>
</template>
