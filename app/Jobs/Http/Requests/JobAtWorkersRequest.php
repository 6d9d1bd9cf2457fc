<?php

declare(strict_types=1);

namespace App\Jobs\Http\Requests;

use App\Jobs\Http\JobController;
use Fulcrion\Core\Scheduling\TaskOrder;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to JobController::at().
 */
final class JobAtWorkersRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'workers' => ['required', 'integer', 'between:1,'.JobController::MOST_WORKERS],
            'parts' => ['nullable', 'integer', 'between:10,2000'],
            'order' => ['nullable', 'in:'.implode(',', array_column(TaskOrder::cases(), 'value'))],
        ];
    }
}
