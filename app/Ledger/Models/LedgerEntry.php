<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $number
 * @property int $at_us
 * @property int|null $user_id
 * @property string $who
 * @property string $act
 * @property string $object
 * @property string $details JSON
 * @property string $previous
 * @property string $digest
 */
final class LedgerEntry extends Model
{
    public $timestamps = false;

    public $incrementing = false;

    protected $primaryKey = 'number';

    protected $guarded = [];
}
