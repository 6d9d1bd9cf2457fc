<?php

declare(strict_types=1);

if (! function_exists('array_first')) {
    /**
     * First value of an array, or null when it is empty (PHP 8.5).
     *
     * @param array<mixed> $array
     */
    function array_first(array $array): mixed
    {
        return $array === [] ? null : $array[array_key_first($array)];
    }
}

if (! function_exists('array_last')) {
    /**
     * Last value of an array, or null when it is empty (PHP 8.5).
     *
     * @param array<mixed> $array
     */
    function array_last(array $array): mixed
    {
        return $array === [] ? null : $array[array_key_last($array)];
    }
}
