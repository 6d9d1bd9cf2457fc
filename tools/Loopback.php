<?php

declare(strict_types=1);

namespace Fulcrion\Tools;

use RuntimeException;

/**
 * Servers of our own on this machine.
 */
final class Loopback
{
    public static function freePort(): int
    {
        $socket = stream_socket_server('tcp://127.0.0.1:0');
        if ($socket === false) {
            throw new RuntimeException('No port is free on this machine.');
        }
        $name = (string) stream_socket_get_name($socket, false);
        fclose($socket);

        return (int) substr($name, (int) strrpos($name, ':') + 1);
    }
}
