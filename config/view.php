<?php

declare(strict_types=1);

return [
    'paths' => [resource_path('views')],
    'compiled' => dirname(__DIR__).'/var/storage/framework/views',
];
