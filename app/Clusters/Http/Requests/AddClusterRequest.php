<?php

declare(strict_types=1);

namespace App\Clusters\Http\Requests;

use Fulcrion\Core\Sql\Dialect;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rules\Enum;

/**
 * A cluster that is to be watched, or known from files.
 */
final class AddClusterRequest extends FormRequest
{
    use ServerFields;

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'name' => ['required', 'string', 'max:120'],
            'connector' => ['required', 'in:mariadb,files'],
            'role' => ['required', 'string', 'max:60'],
        ] +
            ($this->input('connector') === 'mariadb'
                ? self::connection(true)
                : ['dialect' => ['required', new Enum(Dialect::class)]]);
    }
}
