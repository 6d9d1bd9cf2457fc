<?php

declare(strict_types=1);

return [
    'name' => 'Fulcrion',
    'timezone' => 'UTC',
    'locale' => 'en',
];
